//! Warps by hand: soft pushes and smears, kept as what was drawn.

use super::change::{Change, Ground, Group, Moves};
use crate::kinds::prelude::*;
use crate::params::{few, px};
use jugata_core::geometry::chain::{Bend, Move};
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::push;
use std::sync::Arc;

/// An ellipse that is dragged from where it is to where it should be. Full-resolution px.
#[parameters(item)]
pub struct PushedEllipse {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Its middle, in the picture before.
    #[param(label = "From", range = [-200_000.0, 200_000.0], step = 1.0, unit = "px", means = "pair")]
    pub at: [f32; 2],
    /// How far it is pushed, right and down.
    #[param(label = "Push by", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset")]
    pub by: [f32; 2],
    /// Half its width and half its height.
    #[param(label = "Size", default = [120.0, 120.0], range = [1.0, 100_000.0], step = 1.0, unit = "px", means = "pair")]
    pub size: [f32; 2],
    /// How it lies, against the clock.
    #[param(label = "Lies", range = [-3600.0, 3600.0], slider = [-90.0, 90.0], step = 1.0, unit = "°")]
    pub lies: f32,
    /// How far it is turned, against the clock.
    #[param(label = "Turn", range = [-720.0, 720.0], slider = [-180.0, 180.0], step = 1.0, unit = "°")]
    pub turn: f32,
    /// How much larger it becomes.
    #[param(label = "Grow", default = 1.0, range = [0.05, 20.0], slider = [0.5, 2.0], step = 0.01, unit = "×")]
    pub scale: f32,
    /// Share of it over which it lets go: 0 takes all of it along, 1 its middle only.
    #[param(label = "Softness", default = 1.0, range = [0.0, 1.0], step = 0.05)]
    pub softness: f32,
}

/// A stroke that smears the picture along its path. Full-resolution px.
#[parameters(item)]
pub struct SmearStroke {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Width of the brush.
    #[param(label = "Brush", default = 120.0, range = [1.0, 20_000.0], unit = "px")]
    pub size: f32,
    /// Share of the brush over which it lets go.
    #[param(label = "Softness", default = 1.0, range = [0.0, 1.0])]
    pub softness: f32,
    /// How much of the way what lies under it is taken along.
    #[param(label = "Strength", default = 1.0, range = [0.0, 1.0])]
    pub strength: f32,
    /// Its path.
    #[param(label = "Path", range = [-200_000.0, 200_000.0])]
    pub points: Vec<[f32; 2]>,
}

/// Pushes, strokes and points of these, at most.
const MOST: usize = 500;
const MOST_POINTS: usize = 50_000;

/// Parameters of Warp.
#[parameters]
pub struct Warp {
    /// Ellipses, each dragged from where it is to where it should be; all of them at once.
    #[param(label = "Pushes", item = "push", most = MOST, means = "pushes", group = "Pushes")]
    pub pushes: Vec<PushedEllipse>,
    /// Strokes that smear what the pushes made, one after the other.
    #[param(label = "Smears", item = "smear", most = MOST, means = "smears", group = "Smears")]
    pub smears: Vec<SmearStroke>,
    /// How the picture is read between its pixels.
    #[param(label = "Filter", group = "Read")]
    pub filter: Kernel,
}

impl Warp {
    fn warp(&self) -> push::Warp {
        let pushes = self.pushes.iter().map(|p| {
            let from = px(p.at);
            push::Push {
                from,
                to: from + px(p.by),
                size: px(p.size),
                lies: f64::from(p.lies).to_radians(),
                turn: f64::from(p.turn).to_radians(),
                scale: p.scale.into(),
                softness: p.softness.into(),
            }
        });
        let smears = self.smears.iter().map(|s| push::Smear {
            path: s.points.iter().copied().map(px).collect(),
            radius: f64::from(s.size) * 0.5,
            softness: s.softness.into(),
            strength: s.strength.into(),
        });
        push::Warp::new(pushes.collect(), smears.collect())
    }
}

impl Kind for Warp {
    fn about(&self) -> About {
        About {
            title: "Warp",
            about: "Pushes soft ellipses of the picture to where they should be, and smears along strokes.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let counted = |n: usize, one: &str, more: &str| match n {
            0 => None,
            1 => Some(format!("1 {one}")),
            n => Some(format!("{n} {more}")),
        };
        let pushes = counted(self.pushes.len(), "push", "pushes");
        let smears = counted(self.smears.len(), "smear", "smears");
        let told: Vec<String> = pushes.into_iter().chain(smears).collect();
        if told.is_empty() {
            "Warp: nothing is pushed yet".into()
        } else {
            format!("Warp by {}", told.join(" and "))
        }
    }

    fn check(&self) -> Result<(), String> {
        few("points", self.smears.iter().map(|s| s.points.len()).sum(), MOST_POINTS)
    }
}

impl Change for Warp {
    fn group(&self) -> Group {
        Group::Place
    }

    fn is_move(&self) -> bool {
        true
    }

    fn moves(&self, _: &Ground<'_>) -> Result<Moves, String> {
        Ok(Moves { by: Move::Bend(Bend::Warp(Arc::new(self.warp()))), kernel: self.filter })
    }
}
