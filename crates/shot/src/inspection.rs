//! What files hold and what is wrong with them, for people and for scripts.

use crate::document::{MediaId, Shot, Source};
use crate::engine::{CacheSizes, Engine};
use crate::error::ShotError;
use crate::intake::{MediaFile, Opens, shot_of_files, stem};
use crate::media::Library;
use jugata_core::passes::checks::{Finding, FindingKind, Remedy};
use jugata_core::{Role, Window};
use jugata_exchange::inspect::{Report, report};
use jugata_exchange::{ExchangeError, ImageFile, Limits, read};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::HashMap;
use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};

/// A file's report.
#[derive(Debug, Serialize, JsonSchema)]
pub struct FileReport {
    /// Its name.
    pub name: String,
    /// What it holds.
    #[serde(flatten)]
    pub report: Report,
}

/// A finding in words.
#[derive(Debug, Serialize, JsonSchema)]
pub struct FindingReport {
    /// Name of the element.
    pub element: String,
    /// Name of the pass.
    pub pass: String,
    /// Its role.
    pub role: Role,
    /// What was found.
    pub finding: FindingKind,
    /// How sure, 0..1.
    pub confidence: f32,
    /// What, with the evidence.
    pub what: String,
    /// What it costs.
    pub cost: Option<String>,
    /// What puts it right, in words.
    pub remedy: Option<String>,
    /// The convention or repair that does so.
    pub does: Option<Remedy>,
    /// Pixels of the pass that it is about; all of them if not said.
    pub pixels: Option<usize>,
}

/// An element that the files make.
#[derive(Debug, Serialize, JsonSchema)]
pub struct ElementReport {
    /// Its name.
    pub name: String,
    /// Its passes, each with its role and the file or sequence it is in.
    pub passes: Vec<(String, Role, String)>,
    /// Sequences: pattern, first, last, number of files.
    pub sequences: Vec<(String, i32, i32, usize)>,
    /// What was noted.
    pub notes: Vec<String>,
}

/// Everything that `jugata inspect --json` prints.
#[derive(Debug, Serialize, JsonSchema)]
pub struct Inspection {
    /// The first file of each run of frames.
    pub files: Vec<FileReport>,
    /// Elements, passes and sequences that they make.
    pub elements: Vec<ElementReport>,
    /// Findings.
    pub findings: Vec<FindingReport>,
}

/// Files on disk, by their hash.
struct OnDisk {
    paths: HashMap<MediaId, PathBuf>,
    limits: Limits,
    /// The file that was opened last: it is asked for more than once, and two large ones need not fit into memory.
    last: Mutex<Option<(MediaId, Arc<ImageFile>)>>,
}

impl OnDisk {
    /// An engine over these files that need not read the last one again.
    fn engine(self) -> Engine {
        let limits = self.limits;
        let last = self.last.lock().unwrap_or_else(PoisonError::into_inner).take();
        let engine = Engine::new(Box::new(self), limits, CacheSizes::default());
        if let Some((media, image)) = last {
            engine.admit(media, image);
        }
        engine
    }

    fn load(&self, media: &MediaId, name: &str) -> Result<Vec<u8>, ShotError> {
        let missing = || ShotError::NoMedia { file: name.to_owned() };
        std::fs::read(self.paths.get(media).ok_or_else(missing)?).map_err(|_| missing())
    }
}

impl Library for OnDisk {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        self.load(&source.media, &source.file)
    }
}

impl Opens for OnDisk {
    fn open(&self, file: &MediaFile) -> Result<Arc<ImageFile>, ShotError> {
        let mut last = self.last.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((media, image)) = last.as_ref()
            && *media == file.media
        {
            return Ok(image.clone());
        }
        *last = None;
        let image = Arc::new(read(&self.load(&file.media, &file.name)?, &self.limits)?);
        *last = Some((file.media.clone(), image.clone()));
        Ok(image)
    }

    fn frame(&self, file: &MediaFile) -> Result<Window, ShotError> {
        Ok(jugata_exchange::read::frame_of(&self.load(&file.media, &file.name)?, &self.limits)?)
    }
}

/// A shot of files on disk as Intake would make it, and the engine that reads them.
///
/// # Errors
/// Nothing that can be read.
pub fn shot_on_disk(paths: &[PathBuf], limits: Limits) -> Result<(Shot, Engine), ShotError> {
    let (shot, disk) = brought(paths, limits)?;
    Ok((shot, disk.engine()))
}

fn brought(paths: &[PathBuf], limits: Limits) -> Result<(Shot, OnDisk), ShotError> {
    let mut disk = OnDisk { paths: HashMap::new(), limits, last: Mutex::default() };
    let mut brought = Vec::new();
    for path in paths {
        let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        let bytes = std::fs::read(path).map_err(ExchangeError::Io)?;
        let media = MediaId::of(&bytes);
        disk.paths.insert(media.clone(), path.clone());
        brought.push(MediaFile { name, media });
    }
    Ok((shot_of_files(&brought, &disk)?, disk))
}

/// Looks into files on disk.
///
/// # Errors
/// Nothing that can be read.
pub fn inspect(paths: &[PathBuf], limits: Limits) -> Result<Inspection, ShotError> {
    let (shot, disk) = brought(paths, limits)?;
    let files = first_files(&shot, &disk)?;
    let engine = disk.engine();
    let mut findings = Vec::new();
    for element in &shot.elements {
        for f in engine.findings(&shot, element.id, shot.first_frame())?.iter() {
            let pass = element.passes.iter().find(|p| p.id == f.pass);
            findings.extend(pass.map(|p| in_words(&element.name, &p.name, p.role, f)));
        }
    }
    Ok(Inspection { files, elements: shot.elements.iter().map(element).collect(), findings })
}

fn first_files(shot: &Shot, disk: &OnDisk) -> Result<Vec<FileReport>, ShotError> {
    let mut seen: Vec<MediaFile> = Vec::new();
    for source in shot.elements.iter().flat_map(|e| &e.passes).map(|p| &p.source) {
        let file = MediaFile { name: source.file.clone(), media: source.media.clone() };
        if !seen.contains(&file) {
            seen.push(file);
        }
    }
    seen.into_iter()
        .map(|f| Ok(FileReport { report: report(&*disk.open(&f)?, stem(&f.name)), name: f.name }))
        .collect()
}

fn element(e: &crate::document::Element) -> ElementReport {
    let from = |source: &Source| {
        let sequence = e.sequences.iter().find(|s| Some(s.id) == source.sequence);
        sequence.map_or_else(|| source.file.clone(), |s| s.name.clone())
    };
    ElementReport {
        name: e.name.clone(),
        passes: e.passes.iter().map(|p| (p.name.clone(), p.role, from(&p.source))).collect(),
        sequences: e
            .sequences
            .iter()
            .map(|s| {
                let end = |f: Option<&crate::document::SequenceFrame>| f.map_or(0, |f| f.number);
                (s.name.clone(), end(s.frames.first()), end(s.frames.last()), s.frames.len())
            })
            .collect(),
        notes: e.notes.clone(),
    }
}

fn in_words(element: &str, pass: &str, role: Role, f: &Finding) -> FindingReport {
    FindingReport {
        element: element.to_owned(),
        pass: pass.to_owned(),
        role,
        finding: f.kind,
        confidence: f.confidence,
        what: f.what.clone(),
        cost: f.cost.clone(),
        remedy: f.remedy.as_ref().map(|(words, _)| words.clone()),
        does: f.remedy.as_ref().map(|(_, does)| *does),
        pixels: f.place.as_ref().map(|p| p.plane(0).iter().filter(|v| **v > 0.0).count()),
    }
}

impl std::fmt::Display for Inspection {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for file in &self.files {
            writeln!(f, "{}\n{}", file.name, file.report)?;
        }
        for e in &self.elements {
            if self.elements.len() > 1 || !e.sequences.is_empty() {
                writeln!(f, "element {}", e.name)?;
                for (name, role, from) in &e.passes {
                    writeln!(f, "  {name:<16} {:<12} {from}", role.label())?;
                }
            }
            for (pattern, first, last, count) in &e.sequences {
                writeln!(f, "  sequence {pattern}  {first}–{last}, {count} files")?;
            }
            for note in &e.notes {
                writeln!(f, "  {note}")?;
            }
        }
        if self.findings.is_empty() {
            return writeln!(f, "findings\n  none");
        }
        writeln!(f, "findings")?;
        for x in &self.findings {
            writeln!(f, "  {} · {} ({:.0} % sure)", x.pass, x.finding.label(), x.confidence * 100.0)?;
            writeln!(f, "    {}", x.what)?;
            if let Some(cost) = &x.cost {
                writeln!(f, "    costs: {cost}")?;
            }
            if let Some(remedy) = &x.remedy {
                writeln!(f, "    remedy: {remedy}")?;
            }
        }
        Ok(())
    }
}

/// JSON Schema of what `jugata inspect --json` prints.
pub fn schema() -> serde_json::Value {
    schemars::schema_for!(Inspection).to_value()
}
