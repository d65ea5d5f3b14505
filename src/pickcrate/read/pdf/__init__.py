"""Documents in PDF, as pages."""
