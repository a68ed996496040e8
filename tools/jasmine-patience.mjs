// A machine may be slow: a spec fails by what it finds, not by how long it took.
globalThis.jasmine.DEFAULT_TIMEOUT_INTERVAL = 600_000;
