//! `jugata review`: a shot file to a review sheet.

use crate::Failure;
use crate::on_disk::{OnDisk, tell_differing};
use crate::render::write_whole;
use clap::Args;
use jugata_shot::review::{Sheet, sheet};
use std::path::PathBuf;

#[derive(Args)]
pub struct Review {
    /// The shot file (JSON).
    shot: PathBuf,
    /// Where to write the sheet, one HTML file.
    #[arg(long)]
    out: PathBuf,
    /// The frame that is compared; the first if not said.
    #[arg(long, allow_hyphen_values = true)]
    frame: Option<i32>,
    /// Folders with the media, beside the shot file's own; a media store works too.
    #[arg(long)]
    media: Vec<PathBuf>,
}

impl Review {
    pub fn run(self) -> Result<(), Failure> {
        let OnDisk { engine, shot, folders } = OnDisk::open(&self.shot, self.media)?;
        let page = sheet(&engine, &shot, &Sheet { frame: self.frame, ..Sheet::default() })?;
        write_whole(&self.out, page.as_bytes())?;
        tell_differing(&folders);
        Ok(())
    }
}
