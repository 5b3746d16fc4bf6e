//! Showing and comparing.
//!
//! | module | subject |
//! |---|---|
//! | [`view`] | turning any pass into 8-bit pixels for a screen |
//! | [`parallax`] | a picture seen from a little to the side |
//! | [`compare`] | PSNR, SSIM and largest difference |
//! | [`histogram`] | how often each tone is met |

pub mod compare;
pub mod histogram;
pub mod parallax;
pub mod view;
