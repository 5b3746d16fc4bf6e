//! What a file holds, for people and for scripts.

use crate::camera_attributes::camera;
use crate::file::{Attribute, Channel, FileFormat, ImageFile, MissingRows, SampleKind};
use crate::roles::{PassProposal, propose};
use jugata_core::colour::ColourSpace;
use jugata_core::passes::convention::AlphaState;
use jugata_core::{Camera, Window};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::Serialize;
use std::fmt::Write;

/// Figures of one channel.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct ChannelReport {
    /// Full name.
    pub name: String,
    /// How it is stored.
    pub kind: SampleKind,
    /// Smallest finite value; none if there is none.
    pub min: Option<f32>,
    /// Largest finite value.
    pub max: Option<f32>,
    /// Mean of the finite values.
    pub mean: Option<f64>,
    /// Samples that are NaN or infinite.
    pub not_finite: usize,
}

/// One part.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct PartReport {
    /// Name, if any.
    pub name: Option<String>,
    /// Data window.
    pub data_window: Window,
    /// Compression in words.
    pub compression: String,
    /// What it loses, if anything.
    pub lossy: Option<String>,
    /// Rows that are missing.
    pub missing: Vec<MissingRows>,
    /// Channels.
    pub channels: Vec<ChannelReport>,
    /// Attributes.
    pub attributes: Vec<Attribute>,
}

/// A whole file.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Report {
    /// Format.
    pub format: FileFormat,
    /// Encoding of its colour, as far as the file says.
    pub colour: ColourSpace,
    /// Whether its colour is premultiplied, as far as the file says.
    pub alpha: AlphaState,
    /// What was noted while reading.
    pub notes: Vec<String>,
    /// Display window.
    pub display_window: Window,
    /// Pixel aspect.
    pub pixel_aspect: f32,
    /// Camera, if the header tells one.
    pub camera: Option<Camera>,
    /// Parts.
    pub parts: Vec<PartReport>,
    /// Passes with proposed roles.
    pub passes: Vec<PassProposal>,
}

/// Describes a file.
pub fn report(file: &ImageFile, stem: &str) -> Report {
    Report {
        display_window: file.display_window,
        pixel_aspect: file.pixel_aspect,
        camera: camera(file),
        parts: file
            .parts
            .iter()
            .map(|p| PartReport {
                name: p.name.clone(),
                data_window: p.data_window,
                compression: p.compression.clone(),
                lossy: p.lossy.map(str::to_owned),
                missing: p.missing.clone(),
                channels: p.channels.par_iter().map(figures).collect(),
                attributes: p.attributes.clone(),
            })
            .collect(),
        passes: propose(file, stem),
        format: file.format,
        colour: file.colour,
        alpha: file.alpha,
        notes: file.notes.clone(),
    }
}

fn figures(channel: &Channel) -> ChannelReport {
    let (mut min, mut max, mut sum, mut count) = (f32::INFINITY, f32::NEG_INFINITY, 0.0f64, 0usize);
    channel.samples.for_each(|v| {
        if v.is_finite() {
            min = min.min(v);
            max = max.max(v);
            sum += f64::from(v);
            count += 1;
        }
    });
    let any = count > 0;
    ChannelReport {
        name: channel.name.clone(),
        kind: channel.kind,
        min: any.then_some(min),
        max: any.then_some(max),
        mean: any.then(|| sum / count as f64),
        not_finite: channel.samples.len() - count,
    }
}

impl std::fmt::Display for Report {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let window = |w: Window| format!("{}×{} at {}, {}", w.width, w.height, w.x, w.y);
        writeln!(f, "format          {}", self.format.label())?;
        writeln!(f, "display window  {}", window(self.display_window))?;
        writeln!(f, "pixel aspect    {}", self.pixel_aspect)?;
        match self.camera {
            Some(c) => writeln!(
                f,
                "camera          focal {:.2} px, axis at {}, {}",
                c.focal, c.centre_x, c.centre_y
            )?,
            None => writeln!(f, "camera          not given")?,
        }
        if self.colour != ColourSpace::Linear || self.alpha != AlphaState::Premultiplied {
            writeln!(f, "colour          {}, {} alpha", self.colour.label(), self.alpha.label())?;
        }
        for note in &self.notes {
            writeln!(f, "note            {note}")?;
        }
        for (i, part) in self.parts.iter().enumerate() {
            writeln!(f, "\npart {i}  {}", part.name.as_deref().unwrap_or("(no name)"))?;
            writeln!(f, "  data window   {}", window(part.data_window))?;
            writeln!(f, "  compression   {}", part.compression)?;
            for a in &part.attributes {
                let short: String = a.value.chars().take(120).collect();
                writeln!(f, "  {:<24} {short}", a.name)?;
            }
            for c in &part.channels {
                let mut line = format!("  {:<24} {:<6}", c.name, format!("{:?}", c.kind).to_lowercase());
                match (c.min, c.max, c.mean) {
                    (Some(min), Some(max), Some(mean)) => {
                        write!(line, " min {min:<12.6} max {max:<12.6} mean {mean:<12.6}")?;
                    }
                    _ => line.push_str(" no finite value"),
                }
                if c.not_finite > 0 {
                    write!(line, " not finite {}", c.not_finite)?;
                }
                writeln!(f, "{}", line.trim_end())?;
            }
        }
        writeln!(f, "\npasses")?;
        for p in &self.passes {
            let sure = format!("{:.0} %", p.confidence * 100.0);
            let channels = p.channels.join(" ");
            writeln!(f, "  {:<16} {:<12} {sure:>5}  {channels} ({})", p.name, p.role.label(), p.reason)?;
        }
        Ok(())
    }
}
