//! The picture bent by a grid of points that are dragged.

use super::change::{Change, Ground, Group, Moves};
use crate::kinds::prelude::*;
use crate::params::px;
use glam::DVec2;
use jugata_core::Window;
use jugata_core::geometry::chain::{Bend, Move};
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::lattice::Lattice;
use std::sync::Arc;

/// A point of the grid that was dragged.
#[parameters(item)]
pub struct GridPoint {
    /// Its number: counted from 1, row by row from the upper left.
    #[param(means = "hidden")]
    pub id: u32,
    /// How far it is moved, right and down.
    #[param(label = "Move", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset")]
    pub by: [f32; 2],
}

/// Points along a side, at most.
const MOST: u32 = 24;

/// Parameters of Grid.
#[parameters]
pub struct Grid {
    /// Points from the left edge of the frame to the right one.
    #[param(label = "Across", default = 5, range = [2.0, 24.0], step = 1.0, group = "Grid")]
    pub across: u32,
    /// Points from the upper edge of the frame to the lower one.
    #[param(label = "Down", default = 4, range = [2.0, 24.0], step = 1.0, group = "Grid")]
    pub down: u32,
    /// The points that were dragged.
    #[param(label = "Points", item = "point", most = (MOST * MOST) as usize, means = "grid-points", group = "Grid")]
    pub points: Vec<GridPoint>,
    /// How the picture is read between its pixels.
    #[param(label = "Filter", group = "Read")]
    pub filter: Kernel,
}

impl Grid {
    fn lattice(&self, frame: Window) -> Option<Lattice> {
        let (across, down) = (self.across as usize, self.down as usize);
        let mut by = vec![DVec2::ZERO; across * down];
        for point in &self.points {
            if let Some(place) = (point.id as usize).checked_sub(1).and_then(|i| by.get_mut(i)) {
                *place = px(point.by);
            }
        }
        let low = DVec2::new(frame.x.into(), frame.y.into());
        let high = DVec2::new(frame.right() as f64, frame.bottom() as f64);
        Lattice::new([low, high], across, down, by)
    }
}

impl Kind for Grid {
    fn about(&self) -> About {
        About {
            title: "Grid",
            about: "Bends the picture by a grid of points over the frame, each of which can be dragged.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let moved = self.points.iter().filter(|p| p.by != [0.0; 2]).count();
        let grid = format!("{}×{}", self.across, self.down);
        match moved {
            0 => format!("Grid of {grid}: no point is moved yet"),
            1 => format!("Bend by 1 point of a grid of {grid}"),
            n => format!("Bend by {n} points of a grid of {grid}"),
        }
    }
}

impl Change for Grid {
    fn group(&self) -> Group {
        Group::Place
    }

    fn is_move(&self) -> bool {
        true
    }

    fn moves(&self, on: &Ground<'_>) -> Result<Moves, String> {
        let lattice = self.lattice(on.frame).ok_or("its grid has fewer than two points a side")?;
        if lattice.folds() {
            return Err("the grid folds over itself; move its points back until none crosses another".into());
        }
        Ok(Moves { by: Move::Bend(Bend::Lattice(Arc::new(lattice))), kernel: self.filter })
    }
}
