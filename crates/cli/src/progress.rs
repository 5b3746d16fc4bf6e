//! How far long work has come, on standard error: a bar on a terminal, a line every few seconds otherwise.

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::{IsTerminal, Write};
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// Between two lines where there is no terminal; work that is done sooner says nothing.
const BETWEEN_LINES: Duration = Duration::from_secs(5);

/// What the bar counts to: shares are told to a tenth of a percent.
const WHOLE: u64 = 1000;

/// The progress of one piece of work.
pub struct Progress {
    what: String,
    bar: ProgressBar,
    started: Instant,
    last_line: Option<Mutex<Instant>>,
}

impl Progress {
    /// Starts to tell of work that is named by what is done: "Rendering frame 3".
    pub fn of(what: impl Into<String>) -> Self {
        let what = what.into();
        let terminal = std::io::stderr().is_terminal();
        let target =
            if terminal { ProgressDrawTarget::stderr_with_hz(10) } else { ProgressDrawTarget::hidden() };
        let bar = ProgressBar::with_draw_target(Some(WHOLE), target);
        if let Ok(style) = ProgressStyle::with_template("{msg} {bar:32} {percent:>3} %, {eta} left") {
            bar.set_style(style.progress_chars("━╸─"));
        }
        bar.set_message(what.clone());
        if terminal {
            bar.enable_steady_tick(Duration::from_millis(250));
        }
        let now = Instant::now();
        Self { what, bar, started: now, last_line: (!terminal).then(|| Mutex::new(now)) }
    }

    /// Tells that a share of the work, 0..1, is done. Threads may tell it in any order.
    pub fn at(&self, share: f32) {
        self.tell(share, &mut std::io::stderr());
    }

    fn tell(&self, share: f32, to: &mut impl Write) {
        let done = (share.clamp(0.0, 1.0) * WHOLE as f32) as u64;
        if done > self.bar.position() {
            self.bar.set_position(done);
        }
        let Some(last) = &self.last_line else { return };
        let Ok(mut last) = last.try_lock() else { return };
        if last.elapsed() >= BETWEEN_LINES {
            *last = Instant::now();
            // Nobody reads it: the work goes on all the same.
            let _ = writeln!(to, "{}", line(&self.what, share, self.started.elapsed()));
        }
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        self.bar.finish_and_clear();
    }
}

/// "Rendering: 40 %, about 12 s left".
fn line(what: &str, share: f32, so_far: Duration) -> String {
    let percent = (share.clamp(0.0, 1.0) * 100.0) as u32;
    if percent == 0 {
        return format!("{what}: {percent} %");
    }
    let left = so_far.as_secs_f32() / share * (1.0 - share);
    format!("{what}: {percent} %, about {left:.0} s left")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_says_how_far_it_is_and_how_long_it_will_take() {
        assert_eq!(line("Rendering", 0.4, Duration::from_secs(8)), "Rendering: 40 %, about 12 s left");
        assert_eq!(line("Rendering", 0.0, Duration::from_secs(8)), "Rendering: 0 %");
        assert_eq!(line("Rendering", 1.0, Duration::from_secs(8)), "Rendering: 100 %, about 0 s left");
    }

    #[test]
    fn lines_come_seconds_apart_and_short_work_says_nothing() {
        let started = Instant::now();
        let mut progress = Progress::of("Rendering");
        let mut told = Vec::new();
        progress.last_line = Some(Mutex::new(started));
        progress.tell(0.2, &mut told);
        assert!(told.is_empty(), "too soon");
        let before = started.checked_sub(BETWEEN_LINES).unwrap();
        progress.last_line = Some(Mutex::new(before));
        progress.tell(0.3, &mut told);
        progress.tell(0.4, &mut told);
        let told = String::from_utf8(told).unwrap();
        assert_eq!(told.lines().count(), 1, "{told}");
        assert!(told.starts_with("Rendering: 3"), "{told}");
        progress.tell(0.1, &mut Vec::new());
        assert_eq!(progress.bar.position(), 400, "it never goes back");
    }
}
