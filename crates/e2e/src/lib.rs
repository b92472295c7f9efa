//! Browser tests: the real binary, a real Chromium. See `tests/`.
