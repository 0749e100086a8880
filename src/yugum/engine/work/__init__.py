"""What a worker does: claims subjects under leases, begins their dockets, runs lanes, ends dockets."""
