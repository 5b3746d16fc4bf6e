//! Any bytes into the reader of drawings, and what it read drawn: pixels or a sentence, never a crash.
#![no_main]

use jugata_core::Window;
use jugata_exchange::drawing::Drawing;
use libfuzzer_sys::fuzz_target;

fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    match Drawing::read(data).and_then(|d| d.drawn(Window::of_size(64, 48), 1.0, [0.0, 0.0])) {
        Ok(_) => {}
        Err(e) => assert!(!e.to_string().is_empty()),
    }
});
