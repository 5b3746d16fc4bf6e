//! Coverage of letters against FreeType's at sixteen times the size (`fixtures/make_letters.py`).
#![allow(clippy::unwrap_used)]

use glam::Vec2;
use jugata_core::matte::path::Rule;
use jugata_core::{Cancel, Window};
use jugata_exchange::lettering::{Align, Font, Setting, ShippedFont};
use jugata_exchange::{Limits, read};

const CELL: u32 = 128;

#[test]
fn letters_are_covered_as_freetype_covers_them() {
    let file = read(include_bytes!("fixtures/letters.png"), &Limits::default()).unwrap();
    let part = &file.parts[0];
    let wanted = part.channels[0].samples.clone();
    let how = Setting {
        size: 90.0,
        later: 1.0,
        lines: Vec::new(),
        tracking: 0.0,
        leading: 1.0,
        align: Align::Left,
        arc: 0.0,
    };
    for (row, font) in [ShippedFont::Cinzel, ShippedFont::GreatVibes].into_iter().enumerate() {
        let font = Font::read(font.bytes()).unwrap();
        for (column, letter) in ["R", "8", "&", "g"].into_iter().enumerate() {
            let path = font.outlines(letter, &how).unwrap();
            // Ours lies with the middle of its capitals at the origin; theirs has its baseline at 90 px.
            let down = font.capitals() * 0.5 * how.size;
            let path = path.mapped(|p| p + Vec2::new(20.0, 90.0 - down));
            let window = Window::of_size(CELL, CELL);
            let ours = path.filled(window, Rule::NonZero, &Cancel::new()).unwrap();
            let (mut sum, mut worst) = (0.0_f32, 0.0_f32);
            for y in 0..CELL {
                for x in 0..CELL {
                    let at = (row as u32 * CELL + y) * 4 * CELL + column as u32 * CELL + x;
                    let theirs = wanted.get(at as usize).unwrap();
                    let off = (ours.sample(0, x as i32, y as i32).unwrap() - theirs).abs();
                    (sum, worst) = (sum + off, worst.max(off));
                }
            }
            let mean = sum / (CELL * CELL) as f32;
            println!("{letter}: mean {mean} worst {worst}");
            assert!(mean < 1.0 / 255.0, "{letter}: {mean}");
        }
    }
}
