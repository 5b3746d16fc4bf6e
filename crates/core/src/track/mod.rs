//! A plane followed through the frames of a shot: where a region that is drawn on one frame lies on every other.
//!
//! Each frame is compared with the frame of the region itself, so that nothing drifts: from coarse to fine, the projective
//! map is found under which both differ least (Lucas & Kanade 1981; in the form of Baker & Matthews 2004, "Lucas-Kanade 20
//! years on", section 3.2), next to a change of light that is linear over the region, as a correlation that does not mind
//! gain and offset asks for (after Evangelidis & Psarakis 2008). What does not fit (something that passes before the plane)
//! loses its weight, pixel by pixel (Tukey's biweight) and cell by cell.

mod agreed;
mod align;
pub mod body;
pub mod course;
pub mod exact;
mod plate;
mod quad;

use crate::{Cancel, Cancelled, Raster};
use align::{Aligned, Known, Template};
use glam::DMat3;
use plate::Plate;
use quad::sound;
pub use quad::{Quad, all_through, through};

/// Where the region is on one frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fit {
    /// From the frame of the region to this one.
    pub by: DMat3,
    /// Share of the region that is seen here and looks as it did there.
    pub fits: f32,
    /// How far its corners may be off, px, root mean square, as the picture's own noise tells.
    pub unsure: f32,
}

/// Why nothing can be followed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TrackError {
    /// The region lies outside, is too small, or is crossed over.
    #[error("the region is smaller than 8 px, crossed over, or outside of the frame")]
    Region,
    /// Nothing to see in it.
    #[error("there is nothing in the region by which it could be told from its surroundings")]
    Plain,
    /// The request was cancelled.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// Below this share of the region the frame before is looked at, too.
const LITTLE: f32 = 0.45;

/// Below this share of the region nothing was found.
pub const LOST: f32 = 0.15;

/// Follows a region from frame to frame, one way.
pub struct Follower {
    /// The region on its own frame.
    first: Template,
    /// The region on a later frame that still looked like it, and where it was there.
    later: Option<(Template, DMat3)>,
    /// Where it was on the last frame, and on the one before.
    was: [DMat3; 2],
    known: Known,
    corners: Quad,
    shines: f32,
}

impl Follower {
    /// Looks at a region of a picture (RGB or RGBA, linear; one plane is taken as it is), but for what a matte leaves out.
    ///
    /// # Errors
    /// A region that cannot be followed; cancellation.
    pub fn new(
        picture: &Raster,
        corners: Quad,
        left_out: Option<&Raster>,
        cancel: &Cancel,
    ) -> Result<Self, TrackError> {
        let shines = plate::middle(picture, &corners);
        let plate = Plate::of(picture, shines, cancel)?;
        let first = Template::of(&plate, corners, DMat3::IDENTITY, left_out).ok_or(TrackError::Region)?;
        if first.is_plain() {
            return Err(TrackError::Plain);
        }
        Ok(Self { first, later: None, was: [DMat3::IDENTITY; 2], known: Known::NOTHING, corners, shines })
    }

    /// Says where the region is on the last frame that was looked at: the way goes on from there.
    pub fn set(&mut self, by: DMat3) {
        self.was = [by; 2];
    }

    /// Finds the region on the next frame.
    ///
    /// # Errors
    /// Cancellation.
    pub fn next(&mut self, picture: &Raster, cancel: &Cancel) -> Result<Fit, Cancelled> {
        let plate = Plate::of(picture, self.shines, cancel)?;
        let mut best = self.found(&self.first, DMat3::IDENTITY, &plate, cancel)?;
        if best.fits < LITTLE
            && let Some((later, there)) = &self.later
        {
            let other = self.found(later, *there, &plate, cancel)?;
            if other.fits > best.fits + 0.1 {
                best = other;
            }
        }
        let lost = best.fits < LOST;
        let by = if lost { self.was[0] } else { best.by };
        if !lost {
            self.known = self.known.and(&best);
            // What looks at least half as it did serves where the first frame no longer does.
            if best.fits >= LITTLE {
                let later = Template::of(&plate, self.corners, by, None);
                self.later = later.filter(|t| !t.is_plain()).map(|t| (t, by));
            }
            self.was = [by, self.was[0]];
        } else {
            self.was = [by; 2];
            self.known = Known { cells: Known::NOTHING.cells, ..self.known };
        }
        Ok(Fit { by, fits: if lost { 0.0 } else { best.fits }, unsure: best.unsure })
    }

    /// The region of a template that lies at `there` on its frame, on another frame.
    fn found(
        &self,
        template: &Template,
        there: DMat3,
        plate: &Plate,
        cancel: &Cancel,
    ) -> Result<Aligned, Cancelled> {
        let [last, before] = self.was;
        let mut guesses = vec![last];
        let mut known = self.known;
        let went = last * before.inverse();
        if went.is_finite() && sound(&self.corners, went * last) {
            guesses.push(went * last);
            known.leads = self.leads(went * last);
        }
        // The template's own coordinates are those of its frame.
        let back = there.inverse();
        let guesses: Vec<DMat3> = guesses.into_iter().map(|g| g * back).collect();
        known.leads = known.leads.map(|(by, far)| (by * back, far));
        let found = template.align(plate, &guesses, &known, cancel)?;
        Ok(Aligned { by: found.by * there, ..found })
    }

    /// Where the way leads, and how far off that may well be: half of what a corner went from the frame before to the last
    /// one, and a px. Nothing as long as there is no way.
    fn leads(&self, next: DMat3) -> Option<(DMat3, f64)> {
        let [is, was] = self.was.map(|by| all_through(&self.corners, by));
        let went = is?.iter().zip(was?).map(|(a, b)| a.distance(b)).fold(0.0, f64::max);
        (went > 0.0).then_some((next, 1.0 + 0.5 * went))
    }
}
