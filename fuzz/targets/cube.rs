//! Any bytes into the reader of colour tables: a table or a sentence, never a crash.
#![no_main]

use jugata_exchange::cube_read;
use libfuzzer_sys::fuzz_target;

fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    if let Err(e) = cube_read::read(data) {
        assert!(!e.to_string().is_empty());
    }
});
