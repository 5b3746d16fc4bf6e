//! What a lens does to straight lines, taken off the picture or put on it.

use super::change::{Change, Ground, Group, Miss, Moves};
use crate::inputs::Found;
use crate::kinds::prelude::*;
use crate::params::{few, px};
use glam::DVec2;
use jugata_core::Window;
use jugata_core::geometry::chain::{Bend, Move};
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::lens::{Lens, Model};
use jugata_core::geometry::straight::{Solves, Straightened, misses, straighten};

/// Which way the lens is gone through.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LensWay {
    /// What the lens did is taken off: straight lines become straight.
    #[default]
    Undistort,
    /// What the lens does is put on.
    Distort,
}

/// How the coefficients are told.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LensFrom {
    /// As numbers.
    #[default]
    Numbers,
    /// Found from lines that are drawn along what ought to be straight.
    Lines,
}

/// The formula that the coefficients belong to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LensModel {
    /// Brown and Conrady's, as OpenCV has it.
    #[default]
    Brown,
    /// The division model.
    Division,
}

/// The length that coefficients measure distances from the centre in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LensUnit {
    /// The focal length, px (OpenCV's fx).
    #[default]
    Focal,
    /// Half the frame's width.
    HalfWidth,
    /// The frame's width.
    Width,
    /// Half the frame's height.
    HalfHeight,
    /// Half the frame's diagonal.
    HalfDiagonal,
    /// Pixels.
    Px,
}

/// A line along something that ought to be straight.
#[parameters(item)]
pub struct LensLine {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Points along it, in the picture as the lens shows it, full-resolution px.
    #[param(label = "Points", range = [-200_000.0, 200_000.0])]
    pub points: Vec<[f32; 2]>,
}

/// Lines, and points on all of them, at most.
const MOST_LINES: usize = 200;
const MOST_POINTS: usize = 20_000;

/// Parameters of Lens.
#[parameters]
pub struct LensBend {
    /// Whether what the lens did is taken off or put on.
    #[param(label = "Does", group = "Lens")]
    pub does: LensWay,
    /// Another Lens step whose lens this one uses: what one takes off, the other puts back exactly.
    #[param(label = "Lens of", means = "lens-step", group = "Lens")]
    #[ts(optional = nullable)]
    pub lens_of: Option<u32>,
    /// Numbers, or lines drawn along what ought to be straight.
    #[param(label = "Coefficients", group = "Lens", when = {"lens_of": null})]
    pub from: LensFrom,
    /// The formula that the coefficients belong to.
    #[param(label = "Model", group = "Lens", when = {"lens_of": null})]
    pub model: LensModel,
    /// Lines along what ought to be straight, in the picture before the step.
    #[param(label = "Lines", item = "line", most = MOST_LINES, means = "lens-lines", group = "Lines", when = {"lens_of": null, "from": "lines"})]
    pub lines: Vec<LensLine>,
    /// First coefficient: below 0 a barrel, above 0 a cushion (the other way round in the division model).
    #[param(label = "k1", range = [-1e6, 1e6], slider = [-0.5, 0.5], step = 0.001, group = "Radial", when = {"lens_of": null, "from": "numbers"})]
    pub k1: f32,
    /// Second coefficient: bends more toward the corners.
    #[param(label = "k2", range = [-1e6, 1e6], slider = [-0.5, 0.5], step = 0.001, group = "Radial", when = {"lens_of": null, "from": "numbers"})]
    pub k2: f32,
    /// Third coefficient.
    #[param(label = "k3", range = [-1e6, 1e6], slider = [-0.5, 0.5], step = 0.001, group = "Radial", when = {"lens_of": null, "from": "numbers", "model": "brown"})]
    pub k3: f32,
    /// Tangential: the lens sits askew, up or down.
    #[param(label = "p1", range = [-1e6, 1e6], slider = [-0.05, 0.05], step = 0.0005, group = "Radial", when = {"lens_of": null, "from": "numbers", "model": "brown"})]
    pub p1: f32,
    /// Tangential: the lens sits askew, to a side.
    #[param(label = "p2", range = [-1e6, 1e6], slider = [-0.05, 0.05], step = 0.0005, group = "Radial", when = {"lens_of": null, "from": "numbers", "model": "brown"})]
    pub p2: f32,
    /// The length in which the coefficients measure the distance from the centre.
    #[param(label = "Measured in", default = LensUnit::HalfDiagonal, means = "choice-list", group = "Centre", when = {"lens_of": null})]
    pub unit: LensUnit,
    /// The focal length that the coefficients go with (OpenCV's fx).
    #[param(label = "Focal length", default = 1000.0, range = [1.0, 1e6], slider = [100.0, 5000.0], step = 1.0, unit = "px", group = "Centre", when = {"lens_of": null, "unit": "focal"})]
    pub focal: f32,
    /// How far the lens's centre lies from the middle of the frame. (OpenCV counts cx and cy from the middle of the first pixel: cx + ½ − width ÷ 2.)
    #[param(label = "Centre", range = [-100_000.0, 100_000.0], step = 1.0, unit = "px", means = "offset", group = "Centre", when = {"lens_of": null})]
    pub centre: [f32; 2],
    /// How many times as long the unit is down as across: 2 for a picture squeezed to half its width (OpenCV's fy ÷ fx).
    #[param(label = "Squeeze", default = 1.0, range = [0.1, 10.0], slider = [0.5, 2.0], step = 0.01, unit = "×", group = "Centre", when = {"lens_of": null})]
    pub squeeze: f32,
    /// How the picture is read between its pixels.
    #[param(label = "Filter", group = "Read")]
    pub filter: Kernel,
}

impl LensBend {
    fn length(&self, frame: Window) -> f64 {
        let (w, h) = (f64::from(frame.width), f64::from(frame.height));
        match self.unit {
            LensUnit::Focal => self.focal.into(),
            LensUnit::HalfWidth => w * 0.5,
            LensUnit::Width => w,
            LensUnit::HalfHeight => h * 0.5,
            LensUnit::HalfDiagonal => 0.5 * w.hypot(h),
            LensUnit::Px => 1.0,
        }
    }

    fn centre_on(&self, frame: Window) -> DVec2 {
        frame.at_share(DVec2::splat(0.5)) + px(self.centre)
    }

    fn unit_on(&self, frame: Window) -> DVec2 {
        self.length(frame) * DVec2::new(1.0, self.squeeze.into())
    }

    /// The lines that were drawn.
    fn drawn(&self) -> Vec<Vec<DVec2>> {
        self.lines.iter().map(|l| l.points.iter().copied().map(px).collect()).collect()
    }

    /// What the lines say, over a frame; `None` while they say nothing.
    pub fn solved(&self, frame: Window) -> Option<Straightened> {
        let lines = self.drawn();
        let solves = match self.model {
            LensModel::Brown => Solves::BrownConrady,
            LensModel::Division => Solves::Division,
        };
        straighten(&lines, solves, self.centre_on(frame), self.unit_on(frame))
    }

    /// The lens over a frame.
    ///
    /// # Errors
    /// A unit that is none.
    pub fn lens(&self, frame: Window) -> Result<Lens, String> {
        let unit = self.unit_on(frame);
        if unit.min_element() <= 0.0 {
            return Err("its frame has no size".into());
        }
        let [k1, k2, k3, p1, p2] = [self.k1, self.k2, self.k3, self.p1, self.p2].map(f64::from);
        let none = Model::BrownConrady { k: [0.0; 3], p: [0.0; 2] };
        let model = match (self.from, self.model) {
            (LensFrom::Lines, _) => self.solved(frame).map_or(none, |s| s.model),
            (_, LensModel::Brown) => Model::BrownConrady { k: [k1, k2, k3], p: [p1, p2] },
            (_, LensModel::Division) => Model::Division { k: [k1, k2] },
        };
        Ok(Lens::new(model, self.centre_on(frame), unit))
    }

    /// The step whose lens is used, with its parameters.
    fn source<'a>(&'a self, found: &'a [(Want, Found)]) -> Result<&'a Self, String> {
        if self.lens_of.is_none() {
            return Ok(self);
        }
        let other = found.iter().find_map(|(_, f)| match f {
            Found::Step(step) => step.downcast_ref::<Self>(),
            _ => None,
        });
        match other {
            Some(lens) if lens.lens_of.is_none() => Ok(lens),
            Some(_) => Err("the step whose lens it uses takes it from another step; choose that one".into()),
            None => {
                Err("the step whose lens it uses is gone, or is no Lens step any more; choose another".into())
            }
        }
    }
}

impl Kind for LensBend {
    fn about(&self) -> About {
        About {
            title: "Lens",
            about: "Takes a lens's distortion off the picture or puts it on: by coefficients, or by lines along what ought to be straight.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        self.lens_of.map(Want::Step).into_iter().collect()
    }

    fn sentence(&self) -> String {
        let does = match self.does {
            LensWay::Undistort => "Undistort",
            LensWay::Distort => "Distort",
        };
        if self.lens_of.is_some() {
            return format!("{does} by the lens of another step");
        }
        let model = if self.model == LensModel::Brown { "" } else { ", division model" };
        if self.from == LensFrom::Lines {
            return match self.lines.len() {
                0 => format!("{does}{model}: no line is drawn yet"),
                1 => format!("{does}{model} by 1 line"),
                n => format!("{does}{model} by {n} lines"),
            };
        }
        let all = [("k1", self.k1), ("k2", self.k2), ("k3", self.k3), ("p1", self.p1), ("p2", self.p2)];
        let told: Vec<String> =
            all.iter().filter(|(_, v)| *v != 0.0).map(|(k, v)| format!("{k} {v}")).collect();
        if told.is_empty() {
            format!("{does}{model}: not bent yet")
        } else {
            format!("{does}{model}: {}", told.join(", "))
        }
    }

    fn check(&self) -> Result<(), String> {
        few("points", self.lines.iter().map(|l| l.points.len()).sum(), MOST_POINTS)
    }
}

impl Change for LensBend {
    fn group(&self) -> Group {
        Group::Place
    }

    fn is_move(&self) -> bool {
        true
    }

    fn moves(&self, on: &Ground<'_>) -> Result<Moves, String> {
        let bend = Bend::Lens(self.source(on.found)?.lens(on.frame)?);
        let by = match self.does {
            LensWay::Undistort => Move::Unbend(bend),
            LensWay::Distort => Move::Bend(bend),
        };
        Ok(Moves { by, kernel: self.filter })
    }

    fn misses(&self, on: &Ground<'_>) -> Vec<Miss> {
        let solved = self.lens_of.is_none() && self.from == LensFrom::Lines;
        let (true, Ok(lens)) = (solved, self.lens(on.frame)) else { return Vec::new() };
        let all = misses(&self.drawn(), &lens).into_iter();
        all.map(|(at, by)| Miss { at: at.as_vec2().to_array(), by: by.as_vec2().to_array() }).collect()
    }

    fn tells(&self, on: &Ground<'_>) -> Vec<String> {
        let Ok(own) = self.source(on.found) else { return Vec::new() };
        if own.from != LensFrom::Lines || own.lines.is_empty() {
            return Vec::new();
        }
        let Some(found) = own.solved(on.frame) else {
            return vec![
                "The lines say too little yet: draw along something long, near an edge of the picture."
                    .into(),
            ];
        };
        let [before, after] = found.residual;
        let k: &[f64] = match &found.model {
            Model::BrownConrady { k, .. } => k,
            Model::Division { k } => k,
        };
        let [k1, k2] = [k.first(), k.get(1)].map(|k| k.copied().unwrap_or(0.0));
        vec![
            format!("Found k1 {k1:.5}, k2 {k2:.5}."),
            format!("The lines lie {after:.2} px off straight ones; they lay {before:.2} px off."),
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jugata_core::geometry::chain::Chain;

    const FRAME: Window = Window::of_size(1920, 1080);

    fn moved(step: &LensBend, found: &[(Want, Found)]) -> Move {
        step.moves(&Ground { frame: FRAME, found }).unwrap().by
    }

    #[test]
    fn what_one_takes_off_the_other_puts_back() {
        let off = LensBend { k1: -0.2, p1: 0.01, centre: [12.0, -7.0], ..LensBend::default() };
        let found = [(Want::Step(3), Found::Step(std::sync::Arc::new(off.clone())))];
        let on = LensBend { does: LensWay::Distort, lens_of: Some(3), ..LensBend::default() };
        assert!(Chain::of([moved(&off, &[]), moved(&on, &found)]).is_identity());
        assert!(on.moves(&Ground { frame: FRAME, found: &[] }).is_err_and(|e| e.contains("is gone")));
    }

    #[test]
    fn coefficients_in_any_unit_are_one_lens() {
        let place = DVec2::new(150.0, 90.0);
        let at = |step: LensBend| Chain::of([moved(&step, &[])]).source(place).unwrap();
        let wide = at(LensBend { k1: -0.1, unit: LensUnit::Width, ..LensBend::default() });
        for (unit, factor) in
            [(LensUnit::HalfWidth, 0.25), (LensUnit::HalfHeight, 0.25 * (9.0 / 16.0) * (9.0 / 16.0))]
        {
            let own = at(LensBend { k1: -0.1 * factor as f32, unit, ..LensBend::default() });
            assert!((own - wide).length() < 1e-3, "{unit:?} {own} {wide}");
        }
        let focal = at(LensBend { k1: -0.1, unit: LensUnit::Focal, focal: 1920.0, ..LensBend::default() });
        assert_eq!(focal, wide);
    }

    #[test]
    fn lines_tell_the_lens() {
        let bent = LensBend { k1: -0.15, ..LensBend::default() };
        let lens = bent.lens(FRAME).unwrap();
        let line = |id: u32, a: [f64; 2], b: [f64; 2]| LensLine {
            id,
            points: (0..9)
                .filter_map(|i| lens.bent(DVec2::from(a).lerp(b.into(), f64::from(i) / 8.0)))
                .map(|(p, _)| p.as_vec2().to_array())
                .collect(),
        };
        let lines = vec![line(1, [50.0, 40.0], [1880.0, 70.0]), line(2, [100.0, 50.0], [60.0, 1000.0])];
        let found = LensBend { from: LensFrom::Lines, lines, ..LensBend::default() }.solved(FRAME).unwrap();
        assert!(
            matches!(found.model, Model::BrownConrady { k, .. } if (k[0] + 0.15).abs() < 1e-4),
            "{found:?}"
        );
        assert!(found.residual[1] < 1e-3);
        let none = LensBend { from: LensFrom::Lines, ..LensBend::default() };
        assert!(Chain::of([moved(&none, &[])]).is_identity());
    }
}
