//! A new shot from a file.

use crate::document::{Element, FORMAT, MediaId, Pass, Shot, Source};
use jugata_core::Convention;
use jugata_exchange::ImageFile;
use jugata_exchange::camera_attributes::camera;
use jugata_exchange::roles::propose;

/// A shot with one element that holds every pass of the file, with proposed roles and no step.
pub fn shot_of(file: &ImageFile, name: &str, media: MediaId) -> Shot {
    let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
    let title: String = stem.chars().filter(|c| !c.is_control()).take(120).collect();
    let file_name: String = name.chars().filter(|c| !c.is_control()).take(180).collect();
    let passes = (1..).zip(propose(file)).map(|(id, p)| Pass {
        id,
        name: p.name.chars().filter(|c| !c.is_control()).take(180).collect(),
        role: p.role,
        source: Source {
            media: media.clone(),
            file: file_name.clone(),
            part: p.part as u32,
            channels: p.channels,
        },
        convention: Convention::default(),
    });
    let element = Element {
        id: 1,
        name: title.clone(),
        camera: camera(file),
        passes: passes.collect(),
        steps: Vec::new(),
    };
    Shot { format: FORMAT, name: title, display: file.display_window, elements: vec![element] }
}
