"""Benches, hunts and screenshots: what measures and looks at Wendal. They are counted apart from the tests."""
