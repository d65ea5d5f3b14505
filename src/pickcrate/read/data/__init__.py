"""Data that names pictures: JSON, XML, feeds, manifests, records of collections, pyramids of tiles."""
