"""Browser tests: the real page in headless Chromium."""
