//! `jugata inspect`.

use crate::Said;
use clap::Args;
use jugata_exchange::{Limits, inspect};
use std::path::PathBuf;

#[derive(Args)]
pub struct Inspect {
    /// The file.
    file: PathBuf,
    /// Print JSON instead of text.
    #[arg(long)]
    json: bool,
}

impl Inspect {
    pub fn run(self) -> Result<(), Said> {
        let bytes = std::fs::read(&self.file).map_err(|e| format!("{}: {e}", self.file.display()))?;
        let file = jugata_exchange::read(&bytes, &Limits::default())
            .map_err(|e| format!("{}: {e}", self.file.display()))?;
        let report = inspect::report(&file);
        if self.json {
            println!("{}", serde_json::to_string_pretty(&report)?);
        } else {
            print!("{report}");
        }
        Ok(())
    }
}
