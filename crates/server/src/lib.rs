//! The HTTP room: routes by noun, previews, hand-off. It computes no pixel.
