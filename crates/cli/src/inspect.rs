//! `jugata inspect`.

use crate::Failure;
use clap::Args;
use jugata_exchange::Limits;
use jugata_shot::inspection;
use std::path::PathBuf;

#[derive(Args)]
pub struct Inspect {
    /// Files, or folders with files.
    #[arg(required = true)]
    paths: Vec<PathBuf>,
    /// Print JSON instead of text (its schema: docs/inspect.schema.json).
    #[arg(long)]
    json: bool,
}

impl Inspect {
    pub fn run(self) -> Result<(), Failure> {
        let mut files = Vec::new();
        for path in self.paths {
            if path.is_dir() {
                let mut inside: Vec<PathBuf> = std::fs::read_dir(&path)
                    .map_err(|e| format!("{}: {e}", path.display()))?
                    .filter_map(|entry| Some(entry.ok()?.path()).filter(|p| p.is_file()))
                    .collect();
                inside.sort();
                files.extend(inside);
            } else {
                files.push(path);
            }
        }
        let one = files.first().filter(|_| files.len() == 1).map(|p| format!("{}: ", p.display()));
        let found = inspection::inspect(&files, Limits::default())
            .map_err(|e| format!("{}{e}", one.unwrap_or_default()))?;
        if self.json {
            println!("{}", serde_json::to_string_pretty(&found)?);
        } else {
            print!("{found}");
        }
        Ok(())
    }
}
