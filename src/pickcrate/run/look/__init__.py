"""From sources to images with their candidates, measured and sifted. Keeps no picture."""
