"""The Galewick Kite Museum: a made-up site that comes with the program, to try everything on."""
