//! Any bytes into the reader of fonts, and text set in what it read: outlines or a sentence, never a crash.
#![no_main]

use jugata_exchange::lettering::{Align, Font, Setting};
use libfuzzer_sys::fuzz_target;

fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    let how = Setting { size: 90.0, later: 1.0, tracking: 0.0, leading: 1.2, align: Align::Centre, arc: 0.0 };
    match Font::read(data).and_then(|font| font.outlines("Veldmere 1889", &how)) {
        Ok(_) => {}
        Err(e) => assert!(!e.to_string().is_empty()),
    }
});
