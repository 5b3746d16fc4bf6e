//! Any bytes into the reader of glTF cameras: cameras or a sentence, never a crash.
#![no_main]

use jugata_core::Window;
use jugata_exchange::gltf_cameras;
use libfuzzer_sys::fuzz_target;

fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    match gltf_cameras::cameras(data, Window::of_size(1920, 1080)) {
        Ok(cameras) => assert!(cameras.iter().all(|c| c.camera.focal.is_finite() && c.camera.focal > 0.0)),
        Err(e) => assert!(!e.to_string().is_empty()),
    }
});
