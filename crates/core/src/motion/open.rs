//! When the shutter is open.

/// While the shutter is open, in frame intervals from the moment of the picture: −¼ to ¼ is 180° around it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Open {
    /// When it opens.
    pub opens: f32,
    /// When it closes, not before.
    pub closes: f32,
}

impl Open {
    /// Longest time from the moment of the picture.
    pub(super) fn span(self) -> f32 {
        self.opens.abs().max(self.closes.abs()).max(1e-6)
    }
}
