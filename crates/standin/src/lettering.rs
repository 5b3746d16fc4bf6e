//! Letters of five by seven dots for the plate and the label, drawn for this project.

const ROWS: usize = 7;
const COLUMNS: usize = 5;

/// Rows of a letter from top to bottom, five bits each, leftmost highest; `None` for a letter not drawn.
fn glyph(letter: char) -> Option<[u8; ROWS]> {
    Some(match letter {
        'A' => [0x0e, 0x11, 0x11, 0x1f, 0x11, 0x11, 0x11],
        'B' => [0x1e, 0x11, 0x11, 0x1e, 0x11, 0x11, 0x1e],
        'D' => [0x1c, 0x12, 0x11, 0x11, 0x11, 0x12, 0x1c],
        'E' => [0x1f, 0x10, 0x10, 0x1e, 0x10, 0x10, 0x1f],
        'L' => [0x10, 0x10, 0x10, 0x10, 0x10, 0x10, 0x1f],
        'M' => [0x11, 0x1b, 0x15, 0x15, 0x11, 0x11, 0x11],
        'N' => [0x11, 0x19, 0x15, 0x13, 0x11, 0x11, 0x11],
        'O' => [0x0e, 0x11, 0x11, 0x11, 0x11, 0x11, 0x0e],
        'R' => [0x1e, 0x11, 0x11, 0x1e, 0x14, 0x12, 0x11],
        'S' => [0x0f, 0x10, 0x10, 0x0e, 0x01, 0x01, 0x1e],
        'T' => [0x1f, 0x04, 0x04, 0x04, 0x04, 0x04, 0x04],
        'V' => [0x11, 0x11, 0x11, 0x11, 0x0a, 0x0a, 0x04],
        'Y' => [0x11, 0x0a, 0x04, 0x04, 0x04, 0x04, 0x04],
        '7' => [0x1f, 0x01, 0x02, 0x02, 0x04, 0x04, 0x04],
        ' ' => [0; ROWS],
        _ => return None,
    })
}

/// Ink of `text` at a place inside its line: `u` from 0 (left) to 1 (right end), `v` from 0 (bottom) to 1.
/// Strokes have soft borders, so that the gradient of the ink is a groove's wall.
pub fn ink(text: &str, u: f32, v: f32) -> f32 {
    if !(0.0..1.0).contains(&u) || !(0.0..1.0).contains(&v) {
        return 0.0;
    }
    let cell = COLUMNS + 1;
    let (x, y) = (u * (text.chars().count() * cell) as f32 - 0.5, (1.0 - v) * ROWS as f32 - 0.5);
    let dot = |i: i32, j: i32| -> f32 {
        let (Ok(i), Ok(j)) = (usize::try_from(i), usize::try_from(j)) else { return 0.0 };
        let (letter, column) = (i / cell, i % cell);
        let rows = text.chars().nth(letter).and_then(glyph).unwrap_or([0; ROWS]);
        let lit = j < ROWS && column < COLUMNS && rows[j] >> (COLUMNS - 1 - column) & 1 == 1;
        f32::from(u8::from(lit))
    };
    let (i, j) = (x.floor(), y.floor());
    let (fx, fy) = (x - i, y - j);
    let (i, j) = (i as i32, j as i32);
    let mix = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let level = mix(mix(dot(i, j), dot(i + 1, j), fx), mix(dot(i, j + 1), dot(i + 1, j + 1), fx), fy);
    // A steeper, rounded border.
    let t = ((level - 0.3) / 0.4).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_leave_ink_and_gaps() {
        assert!(ink("L", 0.09, 0.5) > 0.9, "the stem of an L");
        assert_eq!(ink("L", 0.5, 0.9), 0.0, "the open side of an L");
        assert_eq!(ink("L", 1.2, 0.5), 0.0);
        for letter in "VELDMERE OBSERVATORY ORRERY NO 7".chars() {
            assert!(glyph(letter).is_some(), "{letter}");
        }
    }
}
