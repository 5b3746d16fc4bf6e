//! Keeping: PostgreSQL through Diesel, and the media store.
