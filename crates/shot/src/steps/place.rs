//! The picture put somewhere: moved, scaled, turned, in depth, or by its four corners.

use super::change::{Change, Ground, Group, Moves};
use crate::kinds::prelude::*;
use glam::DVec2;
use jugata_core::Window;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::place::{Placed, by_corners};

/// How a place is told.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum PlacedBy {
    /// By position, scale and turns.
    #[default]
    Numbers,
    /// By where the four corners of the frame go.
    Corners,
}

/// Parameters of Place.
#[parameters]
pub struct Place {
    /// How the place is told.
    #[param(label = "Place by", means = "placed-by", group = "Place")]
    pub by: PlacedBy,
    /// How far it is moved, right and down.
    #[param(label = "Move", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "moved", group = "Place", when = {"by": "numbers"})]
    pub moved: [f32; 2],
    /// Width and height.
    #[param(label = "Scale", default = [1.0, 1.0], range = [-100.0, 100.0], step = 0.01, unit = "×", means = "pair", group = "Place", when = {"by": "numbers"})]
    pub scale: [f32; 2],
    /// What stays where it is: a share of the frame, from its left and its upper edge.
    #[param(label = "Anchor", default = [0.5, 0.5], range = [-10.0, 10.0], step = 0.01, means = "pair", group = "Place", when = {"by": "numbers"})]
    pub anchor: [f32; 2],
    /// Against the clock.
    #[param(label = "Turn", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 0.5, unit = "°", group = "Turn", when = {"by": "numbers"})]
    pub turn: f32,
    /// Leans to the right.
    #[param(label = "Shear", range = [-10.0, 10.0], slider = [-1.0, 1.0], step = 0.01, group = "Turn", when = {"by": "numbers"})]
    pub shear: f32,
    /// The upper edge goes back.
    #[param(label = "Tilt back", range = [-89.0, 89.0], slider = [-80.0, 80.0], step = 0.5, unit = "°", group = "In depth", when = {"by": "numbers"})]
    pub tilt: f32,
    /// The right edge goes back.
    #[param(label = "Swing back", range = [-89.0, 89.0], slider = [-80.0, 80.0], step = 0.5, unit = "°", group = "In depth", when = {"by": "numbers"})]
    pub swing: f32,
    /// How far away it is seen from, in widths of the frame: the nearer, the stronger the perspective.
    #[param(label = "Distance", default = 1.5, range = [0.6, 1000.0], slider = [0.6, 10.0], step = 0.05, unit = "×", group = "In depth", when = {"by": "numbers"})]
    pub distance: f32,
    /// How far the upper left corner is moved, right and down.
    #[param(label = "Top left", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset", group = "Top", when = {"by": "corners"})]
    pub top_left: [f32; 2],
    /// How far the upper right corner is moved.
    #[param(label = "Top right", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset", group = "Top", when = {"by": "corners"})]
    pub top_right: [f32; 2],
    /// How far the lower right corner is moved.
    #[param(label = "Bottom right", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset", group = "Bottom", when = {"by": "corners"})]
    pub bottom_right: [f32; 2],
    /// How far the lower left corner is moved.
    #[param(label = "Bottom left", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset", group = "Bottom", when = {"by": "corners"})]
    pub bottom_left: [f32; 2],
    /// How the picture is read between its pixels.
    #[param(label = "Filter", group = "Read")]
    pub filter: Kernel,
}

impl Place {
    fn by_numbers(&self, frame: Window) -> jugata_core::geometry::chain::Move {
        let [left, top, width, height] = frame_of(frame);
        let [ax, ay] = self.anchor.map(f64::from);
        Placed {
            anchor: [left + ax * width, top + ay * height],
            by: self.moved.map(f64::from),
            scale: self.scale.map(f64::from),
            shear: self.shear.into(),
            turn: self.turn.into(),
            tilt: self.tilt.into(),
            swing: self.swing.into(),
            distance: f64::from(self.distance) * width,
        }
        .to_move()
    }

    /// Where the corners of a frame go: top left, top right, bottom right, bottom left.
    pub fn corners(&self, frame: Window) -> [DVec2; 4] {
        let [left, top, width, height] = frame_of(frame);
        let (right, bottom) = (left + width, top + height);
        let at = |x: f64, y: f64, [dx, dy]: [f32; 2]| DVec2::new(x + f64::from(dx), y + f64::from(dy));
        [
            at(left, top, self.top_left),
            at(right, top, self.top_right),
            at(right, bottom, self.bottom_right),
            at(left, bottom, self.bottom_left),
        ]
    }
}

fn frame_of(frame: Window) -> [f64; 4] {
    [frame.x.into(), frame.y.into(), frame.width.into(), frame.height.into()]
}

impl Kind for Place {
    fn about(&self) -> About {
        About {
            title: "Place",
            about: "Moves, scales and turns the picture, also in depth, or puts its four corners somewhere.",
            version: 2,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        if self.by == PlacedBy::Corners {
            return "Place by four corners".into();
        }
        let mut does = Vec::new();
        if self.moved != [0.0; 2] {
            does.push(format!("moved by {:.0}, {:.0} px", self.moved[0], self.moved[1]));
        }
        match self.scale {
            [1.0, 1.0] => {}
            [x, y] if x == y => does.push(format!("×{x:.2}")),
            [x, y] => does.push(format!("×{x:.2} wide, ×{y:.2} high")),
        }
        for (word, v) in [("turned", self.turn), ("tilted back", self.tilt), ("swung back", self.swing)] {
            if v != 0.0 {
                does.push(format!("{word} {v:.0}°"));
            }
        }
        if self.shear != 0.0 {
            does.push(format!("sheared {:.2}", self.shear));
        }
        if does.is_empty() { "Place: where it is".into() } else { format!("Place {}", does.join(", ")) }
    }
}

impl Change for Place {
    fn group(&self) -> Group {
        Group::Place
    }

    fn is_move(&self) -> bool {
        true
    }

    fn moves(&self, on: &Ground<'_>) -> Result<Moves, String> {
        let by = match self.by {
            PlacedBy::Numbers => self.by_numbers(on.frame),
            PlacedBy::Corners => {
                let [left, top, width, height] = frame_of(on.frame);
                let from = [DVec2::new(left, top), DVec2::new(left + width, top + height)];
                by_corners(from, self.corners(on.frame))
                    .ok_or("its corners cross over or lie in a line; pull them apart")?
            }
        };
        Ok(Moves { by, kernel: self.filter })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jugata_core::geometry::chain::Chain;

    fn on(frame: Window) -> Ground<'static> {
        Ground { frame, found: &[] }
    }

    #[test]
    fn a_new_one_moves_nothing_either_way() {
        let frame = Window::new(0, 0, 320, 180);
        for by in [PlacedBy::Numbers, PlacedBy::Corners] {
            let moves = Place { by, ..Place::default() }.moves(&on(frame)).unwrap();
            assert!(Chain::of([moves.by]).is_identity(), "{by:?}");
        }
    }

    #[test]
    fn crossed_corners_are_told() {
        let p = Place { by: PlacedBy::Corners, top_left: [400.0, 0.0], ..Place::default() };
        assert!(p.moves(&on(Window::of_size(320, 180))).unwrap_err().contains("cross over"));
        let said = Place { moved: [3.0, 0.0], scale: [2.0, 2.0], tilt: -20.0, ..Place::default() }.sentence();
        assert_eq!(said, "Place moved by 3, 0 px, ×2.00, tilted back -20°");
    }
}
