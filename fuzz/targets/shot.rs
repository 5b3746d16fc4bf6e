//! Any text as a shot document: a sound shot, which survives the way out and in, or a sentence.
#![no_main]

use jugata_shot::check;
use libfuzzer_sys::fuzz_target;

// The readers catch panics of the crates below them; libfuzzer's own hook would take those for crashes.
// A panic that leaves a reader still ends the run.
fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    let Ok(text) = std::str::from_utf8(data) else { return };
    match check::parse(text) {
        Ok(shot) => {
            let again = serde_json::to_string(&shot).map(|t| check::parse(&t).map(|s| s == shot));
            assert!(matches!(again, Ok(Ok(true))), "a sound document changes on the way out and in");
            let _ = shot.at_frame(shot.first_frame());
        }
        Err(e) => assert!(!e.to_string().is_empty()),
    }
});
