//! The real interface driven in headless Chromium.
