//! Any bytes into the png reader: a picture or a sentence, never a crash.
#![no_main]

use jugata_exchange::{Limits, png_read};
use libfuzzer_sys::fuzz_target;

// The readers catch panics of the crates below them; libfuzzer's own hook would take those for crashes.
// A panic that leaves a reader still ends the run.
fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    if let Ok(file) = png_read::read(data, &Limits::default()) {
        for part in &file.parts {
            assert!(part.channels.iter().all(|c| c.samples.len() == part.data_window.area()));
        }
        let _ = jugata_exchange::inspect::report(&file, "fuzz").to_string();
    }
});
