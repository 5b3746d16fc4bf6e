//! The command line of Jugata: inspect, render, review, proof, shot, preset, track, standin, serve, work. Thin: it parses words and asks the rooms.

mod inspect;
mod logging;
mod media;
mod on_disk;
mod preset;
mod progress;
mod proof;
mod render;
mod review;
mod serve;
mod shot;
mod standin;
mod track;
mod words;
mod work;

use clap::{Parser, Subcommand};
use std::process::ExitCode;

/// The system's allocator keeps what many threads have freed: after a burst of pictures it held three times what the
/// caches did. This one gives it back.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Relight, refocus and rework a 3D render from its passes, without rendering again.
#[derive(Parser)]
#[command(name = "jugata", version)]
struct Line {
    #[command(subcommand)]
    verb: Verb,
    /// Tell more on standard error: each step of the work, and what decoders say of a damaged file.
    #[arg(short, long, global = true)]
    verbose: bool,
}

#[derive(Subcommand)]
enum Verb {
    /// Say what an image file holds: windows, layers, channels, roles, figures.
    Inspect(inspect::Inspect),
    /// Render a shot file to a picture.
    Render(render::Render),
    /// Make a review sheet of a shot file: one HTML file for somebody who has no Jugata.
    Review(review::Review),
    /// Make one small animated PNG of a shot file's frames, for browsers.
    Proof(proof::OnProof),
    /// Make, check and add to shot files.
    Shot(shot::OnShot),
    /// Put a preset on an element of a shot file.
    Preset(preset::PresetOn),
    /// Follow a plane of an element's picture through the frames of a shot file.
    Track(track::OnTrack),
    /// Render the demo scene with all its passes, or its truth with a lamp added.
    Standin(standin::Standin),
    /// Say how much disk media take, and delete what nothing names.
    Media(media::OnMedia),
    /// Write frames of ranges that people have asked for, beside the server's own worker.
    Work(work::Work),
    /// Start the application on loopback.
    Serve(serve::Serve),
}

/// A failure in one sentence.
type Failure = Box<dyn std::error::Error>;

fn main() -> ExitCode {
    let line = Line::parse();
    // A server tells of each request; the others only of what is amiss.
    logging::start(
        if matches!(line.verb, Verb::Serve(_)) {
            "warn,rocket=error,_=error,jugata_server=info"
        } else {
            "warn"
        },
        line.verbose,
    );
    let end = match line.verb {
        Verb::Inspect(v) => v.run(),
        Verb::Render(v) => v.run(),
        Verb::Preset(v) => v.run(),
        Verb::Review(v) => v.run(),
        Verb::Proof(p) => p.run(),
        Verb::Shot(v) => v.run(),
        Verb::Standin(v) => v.run(),
        Verb::Track(v) => v.run(),
        Verb::Media(v) => v.run(),
        Verb::Work(v) => v.run(),
        Verb::Serve(v) => v.run(),
    };
    match end {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("{e}");
            ExitCode::FAILURE
        }
    }
}
