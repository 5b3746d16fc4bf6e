//! The samples around a sample.

/// The eight neighbours of a sample inside a plane, nearer ones first.
pub(crate) fn neighbours(i: usize, w: usize, h: usize) -> impl Iterator<Item = usize> {
    const AROUND: [(i64, i64); 8] = [(0, -1), (-1, 0), (1, 0), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];
    let (x, y) = ((i % w) as i64, (i / w) as i64);
    AROUND.into_iter().filter_map(move |(dx, dy)| {
        let (nx, ny) = (x + dx, y + dy);
        let inside = nx >= 0 && ny >= 0 && nx < w as i64 && ny < h as i64;
        inside.then(|| ny as usize * w + nx as usize)
    })
}
