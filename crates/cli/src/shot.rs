//! `jugata shot`: a shot file made, checked and added to without a screen.

use crate::Failure;
use crate::on_disk::{OnDisk, tell_differing};
use crate::render::write_whole;
use clap::{Args, Subcommand};
use jugata_core::Scale;
use jugata_exchange::Limits;
use jugata_shot::document::Step;
use jugata_shot::edits::{EditAt, edited};
use jugata_shot::engine::{Request, Target};
use jugata_shot::inspection::shot_on_disk;
use jugata_shot::{Shot, check, remedies, steps};
use serde_json::Value;
use std::path::{Path, PathBuf};

#[derive(Args)]
pub struct OnShot {
    #[command(subcommand)]
    verb: Verb,
}

#[derive(Subcommand)]
enum Verb {
    /// Make a shot file of renders and their passes, as Intake would: elements, roles, conventions, camera.
    New(New),
    /// Say everything that is wrong with a shot file.
    Check {
        /// The shot file (JSON).
        shot: PathBuf,
    },
    /// Add a step at the end of an element's steps, with its defaults unless a value is set.
    AddStep(AddStep),
    /// Put a value at an address of the document: elements/1/steps/3/does/lamps/2/intensity 1.5.
    Set(Set),
    /// Fill the finish table of a step (relight, surround): which objects are metal or glossy, told from the picture.
    Finishes(Finishing),
}

#[derive(Args)]
struct Set {
    /// The shot file (JSON).
    shot: PathBuf,
    /// Where: names and numbers joined by /, as the document has them.
    address: String,
    /// The value in JSON; a word that is no JSON is taken for text.
    #[arg(allow_hyphen_values = true)]
    value: String,
    /// Where to write the changed shot file; the same one if not said.
    #[arg(long)]
    out: Option<PathBuf>,
}

#[derive(Args)]
struct Finishing {
    /// The shot file (JSON); its media are looked for beside it.
    shot: PathBuf,
    /// Number of the element.
    #[arg(long, default_value_t = 1)]
    element: u32,
    /// Number of the step.
    #[arg(long)]
    step: u32,
    /// The frame to look at; the first of the shot if not said.
    #[arg(long, allow_hyphen_values = true)]
    at: Option<i32>,
    /// Where to write the changed shot file; the same one if not said.
    #[arg(long)]
    out: Option<PathBuf>,
    /// Folders with the media, beside the shot file's own; a media store works too.
    #[arg(long)]
    media: Vec<PathBuf>,
}

#[derive(Args)]
struct New {
    /// The files.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Where to write the shot file; best beside the files.
    #[arg(long)]
    out: PathBuf,
    /// Leave passes as they are read, and take no remedy that is at least 90 % sure.
    #[arg(long)]
    as_is: bool,
}

#[derive(Args)]
struct AddStep {
    /// The shot file (JSON).
    shot: PathBuf,
    /// Kind of the step, as documents name it; `--kind help` lists them.
    #[arg(long)]
    kind: String,
    /// Number of the element.
    #[arg(long, default_value_t = 1)]
    element: u32,
    /// A parameter, as name=value with the value in JSON; may be said several times.
    #[arg(long = "set")]
    set: Vec<String>,
    /// Where to write the changed shot file; the same one if not said.
    #[arg(long)]
    out: Option<PathBuf>,
}

impl OnShot {
    pub fn run(self) -> Result<(), Failure> {
        match self.verb {
            Verb::New(v) => v.run(),
            Verb::Check { shot } => check_file(&shot),
            Verb::AddStep(v) => v.run(),
            Verb::Set(v) => v.run(),
            Verb::Finishes(v) => v.run(),
        }
    }
}

fn text(path: &Path) -> Result<String, String> {
    std::fs::read_to_string(path).map_err(|_| format!("{} cannot be read.", path.display()))
}

fn check_file(path: &Path) -> Result<(), Failure> {
    let problems = check::problems(&check::read(&text(path)?)?);
    if problems.is_empty() {
        println!("{} is sound.", path.display());
        return Ok(());
    }
    let sentences: Vec<String> = problems.iter().map(ToString::to_string).collect();
    Err(sentences.join("\n").into())
}

impl New {
    fn run(self) -> Result<(), Failure> {
        let (mut shot, engine) = shot_on_disk(&self.files, Limits::default())?;
        let elements: Vec<u32> = shot.elements.iter().map(|e| e.id).collect();
        for id in elements.into_iter().filter(|_| !self.as_is) {
            // What one remedy puts right may show what another pass has.
            for _ in 0..4 {
                let found = engine.findings(&shot, id, shot.first_frame())?;
                let sure: Vec<_> = found.iter().filter(|f| f.confidence >= remedies::SURE).cloned().collect();
                let before = shot.clone();
                remedies::take(&mut shot, id, &sure);
                if shot == before {
                    break;
                }
                sure.iter().filter(|f| f.remedy.is_some()).for_each(|f| println!("put right: {}", f.what));
            }
        }
        write(&self.out, &shot)
    }
}

impl AddStep {
    fn run(self) -> Result<(), Failure> {
        let mut document: Value = serde_json::to_value(check::parse(&text(&self.shot)?)?)?;
        let kinds = steps::catalogue();
        if !kinds.iter().any(|k| k.kind == self.kind) {
            let names: Vec<&str> = kinds.iter().map(|k| k.kind).collect();
            return Err(format!("The kinds of step are {}.", names.join(", ")).into());
        }
        let mut does = serde_json::Map::from_iter([("kind".to_owned(), Value::from(self.kind.as_str()))]);
        for pair in &self.set {
            let (name, value) =
                pair.split_once('=').ok_or_else(|| format!("{pair}: say a parameter as name=value."))?;
            does.insert(name.to_owned(), said(value));
        }
        let elements = document["elements"].as_array_mut().into_iter().flatten();
        let element = elements.into_iter().find(|e| e["id"] == self.element);
        let element = element.ok_or_else(|| format!("There is no element {} in this shot.", self.element))?;
        if let Some(list) = element["steps"].as_array_mut() {
            list.push(serde_json::json!({ "does": does }));
        }
        let shot = check::parse(&document.to_string())?;
        if let Some(step) = shot.element(self.element).and_then(|e| e.steps.last()) {
            println!("{}", sentence(step));
        }
        write(self.out.as_deref().unwrap_or(&self.shot), &shot)
    }
}

/// A value in JSON; a word that is no JSON is taken for text.
fn said(value: &str) -> Value {
    serde_json::from_str(value).unwrap_or_else(|_| value.into())
}

/// An edit that puts a value.
fn put(at: String, value: Value) -> EditAt {
    EditAt { at, put: Some(value), after: None }
}

impl Set {
    fn run(self) -> Result<(), Failure> {
        let shot = check::parse(&text(&self.shot)?)?;
        let shot = edited(&shot, &[put(self.address, said(&self.value))])?;
        write(self.out.as_deref().unwrap_or(&self.shot), &shot)
    }
}

impl Finishing {
    fn run(self) -> Result<(), Failure> {
        let on = OnDisk::open(&self.shot, self.media)?;
        let target = Target::Untouched { element: self.element };
        let mut request = Request::frame(&on.shot, target, Scale::FULL);
        request.frame = self.at.unwrap_or(request.frame);
        let told = on.engine.finishes(&on.shot, self.element, &request)?;
        tell_differing(&on.folders);
        told.finishes.iter().for_each(|f| println!("{}", f.sentence()));
        let [objects, metal, gloss] = told.counted;
        println!("Of {objects} objects {metal} are metal and {gloss} glossy; the rest is matt.");
        let at = format!("elements/{}/steps/{}/does/finishes", self.element, self.step);
        let shot = edited(&on.shot, &[put(at, serde_json::to_value(&told.finishes)?)])?;
        write(self.out.as_deref().unwrap_or(&self.shot), &shot)
    }
}

fn sentence(step: &Step) -> String {
    format!("{} {}", step.id, step.does.sentence())
}

fn write(path: &Path, shot: &Shot) -> Result<(), Failure> {
    write_whole(path, (serde_json::to_string_pretty(shot)? + "\n").as_bytes())?;
    println!("{}", path.display());
    Ok(())
}
