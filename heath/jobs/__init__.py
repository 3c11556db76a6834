"""Work that takes long, done by a worker while a page says how far it is."""
