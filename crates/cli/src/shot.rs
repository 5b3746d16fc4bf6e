//! `jugata shot`: a shot file made, checked and added to without a screen.

use crate::Failure;
use crate::render::write_whole;
use clap::{Args, Subcommand};
use jugata_exchange::Limits;
use jugata_shot::document::Step;
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
            // A word that is no JSON is taken for text.
            does.insert(name.to_owned(), serde_json::from_str(value).unwrap_or_else(|_| value.into()));
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

fn sentence(step: &Step) -> String {
    format!("{} {}", step.id, step.does.sentence())
}

fn write(path: &Path, shot: &Shot) -> Result<(), Failure> {
    write_whole(path, (serde_json::to_string_pretty(shot)? + "\n").as_bytes())?;
    println!("{}", path.display());
    Ok(())
}
