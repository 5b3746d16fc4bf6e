//! Relief made from mattes: distances from an edge finer than a pixel, bevels, bands of light and shadow.

pub mod bevel;
pub mod contour;
pub mod corner;
pub mod drops;
pub mod laid;
pub mod noise;
pub mod ring;
