"""The command line: arguments to one order, events to words."""
