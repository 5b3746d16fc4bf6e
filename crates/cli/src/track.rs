//! `jugata track`: a plane followed through the frames of a shot file.

use crate::Failure;
use crate::on_disk::{OnDisk, tell_differing};
use crate::progress::Progress;
use crate::render::write_whole;
use crate::words;
use clap::Args;
use jugata_core::Cancel;
use jugata_core::track::course::Course;
use jugata_shot::check;
use jugata_shot::document::{FollowedBy, FrameRange, MediaId, Track};
use jugata_shot::files::MediaFile;
use jugata_shot::tracks::file::TrackFile;
use jugata_shot::tracks::following::{Following, follow};
use std::path::PathBuf;

#[derive(Args)]
pub struct OnTrack {
    /// The shot file (JSON); its media are looked for beside it.
    shot: PathBuf,
    /// Number of the element.
    #[arg(long, default_value_t = 1)]
    element: u32,
    /// Number of its track.
    #[arg(long, default_value_t = 1)]
    track: u32,
    /// First and last frame, first-last; all frames of the shot if not said.
    #[arg(long, value_parser = words::frames, allow_hyphen_values = true)]
    frames: Option<FrameRange>,
    /// Corners of the region, one way round from the upper left: x,y x,y x,y x,y in px. A track with them is made, or its region
    /// is drawn anew.
    #[arg(long, num_args = 4, value_parser = corner, allow_hyphen_values = true)]
    corners: Option<Vec<[f32; 2]>>,
    /// The frame on which the corners are; the first of the shot if not said.
    #[arg(long, requires = "corners", allow_hyphen_values = true)]
    at: Option<i32>,
    /// What it is followed by: picture (what is seen), motion (vectors) or positions; of a track that is there already, what it
    /// says itself if not said.
    #[arg(long, value_parser = source)]
    by: Option<FollowedBy>,
    /// Where to write what was found (JSON), beside the shot file; its name with `.track.json` if not said.
    #[arg(long)]
    out: Option<PathBuf>,
    /// Folders with the media, beside the shot file's own; a media store works too.
    #[arg(long)]
    media: Vec<PathBuf>,
}

fn corner(text: &str) -> Result<[f32; 2], String> {
    let place =
        text.split_once(',').and_then(|(x, y)| Some([x.trim().parse().ok()?, y.trim().parse().ok()?]));
    place.ok_or_else(|| format!("{text} is no corner; write x,y in px"))
}

fn source(text: &str) -> Result<FollowedBy, String> {
    match text {
        "picture" => Ok(FollowedBy::Picture),
        "motion" => Ok(FollowedBy::Motion),
        "positions" => Ok(FollowedBy::Positions),
        _ => Err(format!("a plane is not followed by {text}; write picture, motion or positions")),
    }
}

impl OnTrack {
    pub fn run(self) -> Result<(), Failure> {
        let mut on = OnDisk::open(&self.shot, self.media.clone())?;
        self.draw(&mut on)?;
        if let Some(by) = self.by {
            self.track_of(&mut on).into_iter().for_each(|t| t.by = by);
        }
        let course = self.followed(&on)?;
        tell_differing(&on.folders);
        let out = self.out.clone().unwrap_or_else(|| self.shot.with_extension("track.json"));
        let bytes = serde_json::to_vec_pretty(&TrackFile::of(&course))?;
        let name = out.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        write_whole(&out, &bytes)?;
        if let Some(track) = self.track_of(&mut on) {
            track.found = Some(MediaFile { name, media: MediaId::of(&bytes) });
        }
        write_whole(&self.shot, &serde_json::to_vec_pretty(&on.shot)?)?;
        let seen: Vec<_> = course.marks.iter().filter(|m| m.fits > 0.0).collect();
        let least = seen.iter().map(|m| m.fits).fold(1.0, f32::min);
        println!(
            "Found on {} of {} frames, with at least {:.0} % of the region; written to {}.",
            seen.len(),
            course.marks.len(),
            least * 100.0,
            out.display()
        );
        Ok(())
    }

    fn track_of<'s>(&self, on: &'s mut OnDisk) -> Option<&'s mut Track> {
        on.shot.element_mut(self.element)?.tracks.iter_mut().find(|t| t.id == self.track)
    }

    /// Draws the region, if its corners are said.
    fn draw(&self, on: &mut OnDisk) -> Result<(), Failure> {
        let Some(&[a, b, c, d]) = self.corners.as_deref() else { return Ok(()) };
        let at = self.at.unwrap_or(on.shot.first_frame());
        let id = self.element;
        let element =
            on.shot.element_mut(id).ok_or_else(|| format!("There is no element {id} in this shot."))?;
        let fresh = Track::new(self.track, format!("Plane {}", self.track), at, [a, b, c, d]);
        match element.tracks.iter_mut().find(|t| t.id == self.track) {
            Some(track) => {
                *track = Track { name: track.name.clone(), left_out: track.left_out, by: track.by, ..fresh }
            }
            None => element.tracks.push(fresh),
        }
        Ok(check::check(&on.shot)?)
    }

    fn followed(&self, on: &OnDisk) -> Result<Course, Failure> {
        let progress = Progress::of("Following a plane");
        let what =
            Following { shot: &on.shot, element: self.element, track: self.track, frames: self.frames };
        Ok(follow(&on.engine, what, &Cancel::new(), &mut |_, [done, of]| {
            progress.at(done as f32 / of as f32);
        })?)
    }
}
