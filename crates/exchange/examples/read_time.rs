//! Milliseconds to read a file that is in memory, the best of some rounds: for `benches/reading.py`.
#![allow(clippy::unwrap_used, clippy::print_stdout)]

use jugata_exchange::{Limits, read};
use std::time::Instant;

fn main() {
    let mut args = std::env::args().skip(1);
    let bytes = std::fs::read(args.next().unwrap()).unwrap();
    let rounds: usize = args.next().map_or(5, |n| n.parse().unwrap());
    let best = (0..rounds)
        .map(|_| {
            let start = Instant::now();
            let file = read(&bytes, &Limits::default()).unwrap();
            let spent = start.elapsed();
            assert!(file.bytes() > 0);
            spent
        })
        .min();
    println!("{:.2}", best.unwrap().as_secs_f64() * 1e3);
}
