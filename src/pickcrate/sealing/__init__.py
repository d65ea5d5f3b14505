"""A crate sealed as a package in open standards, and packages checked: BagIt, RO-Crate, Croissant, tar."""
