//! `jugata render`: a shot file to a picture, without screen and without database.

use crate::on_disk::{OnDisk, tell_differing};
use crate::progress::Progress;
use crate::{Failure, words};
use clap::Args;
use jugata_core::{Scale, Window};
use jugata_shot::document::FrameRange;
use jugata_shot::engine::{Event, Trace};
use jugata_shot::rocking::{Rock, rock};
use jugata_shot::{Engine, Request, Shot, Target, handoff};
use std::path::{Path, PathBuf};
use std::sync::mpsc::RecvTimeoutError;
use std::time::Duration;

#[derive(Args)]
pub struct Render {
    /// The shot file (JSON).
    shot: PathBuf,
    /// Where to write; .exr and .tif give 32-bit float, .png 16 bits, .jpg a proof.
    #[arg(long)]
    out: PathBuf,
    /// Bits of a sample: 16 or 32 for .exr and .tif, 8 or 16 for .png.
    #[arg(long)]
    bits: Option<u32>,
    /// How an .exr is packed: zip, zip-line, piz, runs or plain; none loses anything.
    #[arg(long, default_value = "zip", value_parser = words::packing)]
    packing: handoff::Packing,
    /// What goes into an .exr beside the result, as layers: untouched, passes, mattes, lights, with commas between.
    #[arg(long, value_delimiter = ',', value_parser = words::with)]
    with: Vec<handoff::With>,
    /// Frame number; the first if not said. A still is the same at every frame.
    #[arg(long, allow_hyphen_values = true)]
    frame: Option<i32>,
    /// Several frames, first-last, each into a file of its own: the # in --out stand for the digits of its number.
    #[arg(long, value_parser = words::frames, allow_hyphen_values = true, conflicts_with = "frame")]
    frames: Option<FrameRange>,
    /// Leave frames alone whose files are there already: to go on where an earlier run stopped.
    #[arg(long, requires = "frames")]
    resume: bool,
    /// What to render: shot, 1/untouched, 1/after/2, 1/before/2, 1/pass/3, 1/limit/2 or 1/matte/1.
    #[arg(long, default_value = "shot", value_parser = words::target)]
    target: Target,
    /// Only this window, px at the scale: x,y,width,height.
    #[arg(long, value_parser = words::window, allow_hyphen_values = true)]
    window: Option<Window>,
    /// Proxy scale.
    #[arg(long, default_value = "1", value_parser = words::scale)]
    scale: Scale,
    /// Seen from the side: the largest move in px, and where between -1 and 1, with a comma between.
    #[arg(long, value_parser = words::rock, allow_hyphen_values = true)]
    rock: Option<Rock>,
    /// Folders with the media, beside the shot file's own; a media store works too.
    #[arg(long)]
    media: Vec<PathBuf>,
}

impl Render {
    pub fn run(self) -> Result<(), Failure> {
        let form = self.form()?;
        let OnDisk { engine, shot, folders } = OnDisk::open(&self.shot, self.media)?;
        let work = Work {
            engine,
            shot,
            form,
            target: self.target,
            scale: self.scale,
            window: self.window,
            rock: self.rock,
        };
        let made = match self.frames {
            None => work.frame(self.frame.unwrap_or(work.shot.first_frame()), &self.out),
            Some(range) => work.frames(range, &self.out, self.resume),
        };
        tell_differing(&folders);
        made
    }

    fn form(&self) -> Result<handoff::FileForm, Failure> {
        let by_name = handoff::Format::of_path(&self.out)?;
        let format = match self.bits {
            None => by_name,
            Some(bits) => by_name
                .of_bits(bits)
                .ok_or_else(|| format!("A .{} file of {bits} bits is not written.", by_name.ending()))?,
        };
        if !self.with.is_empty() && by_name.ending() != "exr" {
            return Err("Only an .exr holds layers beside the result; leave --with out.".into());
        }
        Ok(handoff::FileForm { format, packing: self.packing, with: self.with.clone() })
    }
}

/// What is rendered, whatever the frame.
struct Work {
    engine: Engine,
    shot: Shot,
    form: handoff::FileForm,
    target: Target,
    scale: Scale,
    window: Option<Window>,
    rock: Option<Rock>,
}

impl Work {
    fn frame(&self, frame: i32, out: &Path) -> Result<(), Failure> {
        let (engine, shot) = (&self.engine, &self.shot);
        let mut request = Request::frame(shot, self.target, self.scale);
        request.frame = frame;
        request.window = self.window.unwrap_or(request.window);
        if self.window.is_none() && self.rock.is_none() {
            request = handoff::whole(engine, shot, &request, self.form.format)?;
        }
        let made = telling(shot, &mut request, |request| match self.rock {
            Some(r) => rock(engine, shot, request, r),
            None => engine.evaluate(shot, request),
        })?;
        let beside = match self.rock {
            None => handoff::layers::beside(engine, shot, &request, &made.raster, &self.form)?,
            Some(_) => Vec::new(),
        };
        write_whole(out, &handoff::encode_made(engine, &made, &beside, shot, &request, &self.form)?)?;
        Ok(())
    }

    /// Each frame of a range. One that fails is told, and the others are made all the same.
    fn frames(&self, range: FrameRange, out: &Path, resume: bool) -> Result<(), Failure> {
        let mut failed = Vec::new();
        let name = out.file_name().and_then(|n| n.to_str()).unwrap_or_default();
        for frame in range.first..=range.last {
            let path = out.with_file_name(handoff::numbered(name, frame)?);
            if resume && path.exists() {
                continue;
            }
            match self.frame(frame, &path) {
                Ok(()) => println!("{}", path.display()),
                Err(e) => {
                    eprintln!("Frame {frame}: {e}");
                    failed.push(frame.to_string());
                }
            }
        }
        if failed.is_empty() {
            Ok(())
        } else {
            Err(format!("{} of the frames failed: {}.", failed.len(), failed.join(", ")).into())
        }
    }
}

/// Does the work of a request while another thread tells how many of the shot's steps are done.
fn telling<T>(shot: &Shot, request: &mut Request, work: impl FnOnce(&Request) -> T) -> T {
    let steps = shot.elements.iter().map(|e| e.steps.iter().filter(|s| s.on).count()).sum::<usize>().max(1);
    let trace = Trace::default();
    request.trace = Some(trace.clone());
    let progress = Progress::of("Rendering");
    let (done, ended) = std::sync::mpsc::channel::<()>();
    std::thread::scope(|scope| {
        let (progress, trace) = (&progress, &trace);
        scope.spawn(move || {
            let is_step = |e: &&Event| matches!(e, Event::Ran { .. } | Event::Reused { .. });
            while ended.recv_timeout(Duration::from_millis(200)) == Err(RecvTimeoutError::Timeout) {
                let ran = trace.lock().map_or(0, |t| t.iter().filter(is_step).count());
                progress.at(ran as f32 / steps as f32);
            }
        });
        let made = work(request);
        drop(done);
        made
    })
}

/// Writes beside the target and renames, so that a broken run leaves no half file.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<(), String> {
    let part = path.with_extension("part");
    std::fs::write(&part, bytes)
        .and_then(|()| std::fs::rename(&part, path))
        .map_err(|e| format!("{}: {e}", path.display()))
}
