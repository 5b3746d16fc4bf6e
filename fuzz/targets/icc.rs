//! Any bytes as the colour profile of a TIFF of one pixel: it is read, with the profile or without.
#![no_main]

use jugata_exchange::{Limits, tiff_read};
use libfuzzer_sys::fuzz_target;

/// Little endian: header, eleven entries, bit depths, the pixel, the profile.
fn tiff(profile: &[u8]) -> Vec<u8> {
    let entries: [(u16, u16, u32, u32); 11] = [
        (256, 3, 1, 1),
        (257, 3, 1, 1),
        (258, 3, 3, 146),
        (259, 3, 1, 1),
        (262, 3, 1, 2),
        (273, 4, 1, 152),
        (277, 3, 1, 3),
        (278, 3, 1, 1),
        (279, 4, 1, 3),
        (284, 3, 1, 1),
        (34675, 7, profile.len() as u32, 156),
    ];
    let mut out = b"II*\0\x08\0\0\0\x0b\0".to_vec();
    for (tag, kind, count, value) in entries {
        out.extend(tag.to_le_bytes());
        out.extend(kind.to_le_bytes());
        out.extend(count.to_le_bytes());
        out.extend(value.to_le_bytes());
    }
    out.extend([0; 4]);
    out.extend([8, 0, 8, 0, 8, 0]);
    out.extend([10, 100, 200, 0]);
    out.extend(profile);
    out
}

fuzz_target!(init: std::panic::set_hook(Box::new(|_| ())), |data: &[u8]| {
    // Up to four bytes would be kept in the entry itself.
    if data.len() > 4 {
        assert!(tiff_read::read(&tiff(data), &Limits::default()).is_ok());
    }
});
