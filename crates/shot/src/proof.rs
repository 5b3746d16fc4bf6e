//! An animated proof: frames of a shot as they are seen on a screen, small, in one PNG that any browser plays.

use crate::document::{FrameRange, Shot};
use crate::engine::{Engine, Target};
use crate::error::ShotError;
use crate::look::Look;
use jugata_core::{Cancel, Scale};
use jugata_exchange::png_write;

/// Width of a proof if nobody says another, px at most.
pub const WIDE: u32 = 640;

/// Frames of one proof, at most.
const FRAMES: i64 = 2000;

/// Pixels of all frames together, at most: about a gigabyte on the way.
const PIXELS: u64 = 400_000_000;

/// What a proof shows.
#[derive(Debug)]
pub struct Proof {
    /// Of what.
    pub target: Target,
    /// Which frames.
    pub frames: FrameRange,
    /// Its width, px at most: the picture is halved until it is no wider.
    pub wide: u32,
    /// Pulled when nobody waits any more.
    pub cancel: Cancel,
}

/// The proof of a shot, as an animated PNG at the shot's rate that is played over and over.
///
/// # Errors
/// No frames, or too many; as [`Engine::evaluate`].
pub fn animated(engine: &Engine, shot: &Shot, proof: &Proof) -> Result<Vec<u8>, ShotError> {
    let refused = |what: String| ShotError::Parameter { place: "The proof".into(), what };
    let FrameRange { first, last } = proof.frames;
    let count = i64::from(last) - i64::from(first) + 1;
    if !(1..=FRAMES).contains(&count) {
        return Err(refused(format!("it has between 1 and {FRAMES} frames, not {count}")));
    }
    let halved = (0..).find(|n| shot.display.width.div_ceil(1 << n) <= proof.wide.max(16)).unwrap_or(0);
    let scale = Scale::halved(halved).ok_or_else(|| refused("it cannot be that small".into()))?;
    let window = scale.window(shot.display);
    if window.area() as u64 * count as u64 > PIXELS {
        return Err(refused(format!("{count} frames of {}×{} px are too many", window.width, window.height)));
    }
    let seen = |i: usize| {
        let look = Look::of(proof.target, first + i as i32, scale);
        let mut request = look.request(shot);
        request.cancel = proof.cancel.clone();
        look.codes(engine, shot, &request)
    };
    png_write::animated([window.width, window.height], shot.rate, (0..count as usize).map(seen))
}
