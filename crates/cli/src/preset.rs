//! `jugata preset`: a preset file on an element of a shot file.

use crate::Failure;
use crate::render::write_whole;
use clap::Args;
use jugata_shot::check;
use jugata_shot::preset::{Lengths, Preset};
use std::path::{Path, PathBuf};

#[derive(Args)]
pub struct PresetOn {
    /// The preset file (JSON), as the application writes it.
    preset: PathBuf,
    /// The shot file (JSON).
    shot: PathBuf,
    /// Number of the element.
    #[arg(long, default_value_t = 1)]
    element: u32,
    /// Leave lengths as many px on letters of another height, which are fitted to them else
    #[arg(long)]
    keep_lengths: bool,
    /// Where to write the changed shot file.
    #[arg(long)]
    out: PathBuf,
}

impl PresetOn {
    pub fn run(self) -> Result<(), Failure> {
        let text =
            |path: &Path| std::fs::read_to_string(path).map_err(|e| format!("{}: {e}", path.display()));
        let shot = check::parse(&text(&self.shot)?)?;
        let preset: Preset = serde_json::from_str(&text(&self.preset)?)
            .map_err(|e| format!("{}: this is no preset: {e}", self.preset.display()))?;
        let lengths = if self.keep_lengths { Lengths::Kept } else { Lengths::Fitted };
        let applied = preset.apply(&shot, self.element, lengths)?;
        for what in &applied.missing {
            eprintln!("{what}");
        }
        write_whole(&self.out, serde_json::to_string_pretty(&applied.shot)?.as_bytes())?;
        Ok(())
    }
}
