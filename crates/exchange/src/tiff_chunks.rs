//! Strips and tiles of a TIFF, put together here: samples of 8, 16, 32 and 64 bits in any layout, packed by LZW, deflate,
//! PackBits, Zstandard or not at all, with the predictors for whole numbers and floats (TIFF 6.0, sections 9, 13 to 15;
//! Adobe Photoshop TIFF Technical Note 3 for the float predictor).

use crate::error::{Damage, ExchangeError};
use crate::file::SampleKind;
use std::io::Read;
use tiff::tags::Tag;

/// How the samples of a file are laid out.
pub(crate) struct Layout {
    pub size: (u32, u32),
    pub channels: usize,
    bits: usize,
    float: bool,
    planar: bool,
    compression: u64,
    predictor: u64,
    /// Size of a strip or tile.
    chunk: (u32, u32),
    /// Whether chunks are tiles, which are padded to their whole size.
    tiled: bool,
    offsets: Vec<u64>,
    lengths: Vec<u64>,
    big_endian: bool,
    /// From white to black instead of from black to white.
    inverted: bool,
    /// Least bits first in each byte.
    reversed: bool,
}

/// Samples of each channel.
pub(crate) struct Planes {
    pub kind: SampleKind,
    pub of: Vec<Vec<f32>>,
    /// Whether chunks are missing at the end.
    pub cut_off: bool,
}

type Reader<'b> = tiff::decoder::Decoder<std::io::Cursor<&'b [u8]>>;

/// Bytes by which the tiles of a small picture may be larger than it: tiles of 1024 px, a few channels.
const SPARE: u64 = 64 << 20;

impl Layout {
    /// Reads the tags; `None` for what is left to the library (its own compressions, samples of other widths).
    pub(crate) fn of(
        reader: &mut Reader<'_>,
        bytes: &[u8],
        size: (u32, u32),
        channels: usize,
    ) -> Option<Self> {
        let mut one =
            |tag: Tag, or: u64| reader.find_tag(tag).ok().flatten().map_or(Some(or), |v| v.into_u64().ok());
        let compression = one(Tag::Compression, 1)?;
        let (predictor, planar) = (one(Tag::Predictor, 1)?, one(Tag::PlanarConfiguration, 1)? == 2);
        let (inverted, reversed) =
            (one(Tag::PhotometricInterpretation, 1)? == 0, one(Tag::FillOrder, 1)? == 2);
        let rows = one(Tag::RowsPerStrip, u64::from(size.1))?;
        let tile = (one(Tag::TileWidth, 0)?, one(Tag::TileLength, 0)?);
        let mut list = |tag: Tag| -> Option<Vec<u64>> {
            reader.find_tag(tag).ok().flatten().and_then(|v| v.into_u64_vec().ok())
        };
        let bits = list(Tag::BitsPerSample)?;
        let formats = list(Tag::SampleFormat).unwrap_or_else(|| vec![1]);
        let tiled = tile.0 > 0 && tile.1 > 0;
        let (offsets, lengths) = if tiled {
            (list(Tag::TileOffsets)?, list(Tag::TileByteCounts)?)
        } else {
            (list(Tag::StripOffsets)?, list(Tag::StripByteCounts)?)
        };
        let (same, format) = (bits.iter().all(|b| *b == bits[0]), *formats.first()?);
        let float = format == 3;
        let width = *bits.first()? as usize;
        let known = matches!(compression, 1 | 5 | 8 | 32_773 | 32_946 | 50_000)
            && same
            && formats.iter().all(|f| *f == format)
            && matches!((width, format), (8 | 16 | 32, 1) | (16 | 32 | 64, 3))
            && matches!((predictor, float), (1, _) | (2, false) | (3, true));
        let side = |v: u64| u32::try_from(v).ok().filter(|v| (1..=1 << 20).contains(v));
        let chunk = if tiled {
            (side(tile.0)?, side(tile.1)?)
        } else {
            (size.0, rows.clamp(1, u64::from(size.1)) as u32)
        };
        known.then_some(Self {
            size,
            channels,
            bits: width,
            float,
            planar,
            compression,
            predictor,
            chunk,
            tiled,
            offsets,
            lengths,
            big_endian: bytes.starts_with(b"MM"),
            inverted,
            reversed,
        })
    }

    /// Bytes of a chunk of so many rows once unpacked.
    fn unpacked(&self, rows: usize) -> usize {
        self.chunk.0 as usize * rows * self.per_chunk() * self.bits / 8
    }

    /// Samples of a pixel that a chunk holds.
    const fn per_chunk(&self) -> usize {
        if self.planar { 1 } else { self.channels }
    }

    /// Reads every chunk. One that is missing or garbled at the end of the file leaves zeros.
    pub(crate) fn planes(&self, bytes: &[u8]) -> Result<Planes, ExchangeError> {
        let (w, h) = (self.size.0 as usize, self.size.1 as usize);
        let across = w.div_ceil(self.chunk.0 as usize);
        let down = h.div_ceil(self.chunk.1 as usize);
        let sets = if self.planar { self.channels } else { 1 };
        if self.offsets.len() < across * down * sets
            || self.lengths.len() < self.offsets.len().min(across * down * sets)
        {
            return Err(Damage::Planes.into());
        }
        // Tiles are padded, but nobody pads a small picture to many times its size.
        let whole = (w * h * self.channels * self.bits / 8) as u64;
        let padded = (across * down * sets) as u64 * self.unpacked(self.chunk.1 as usize) as u64;
        if self.tiled && padded > whole.saturating_mul(8).saturating_add(SPARE) {
            return Err(ExchangeError::damaged(Damage::Header, "its tiles are far larger than its picture"));
        }
        let mut of: Vec<Vec<f32>> = (0..self.channels).map(|_| vec![0.0; w * h]).collect();
        let (mut read, mut cut_off) = (0, false);
        for index in 0..across * down * sets {
            let (set, place) = (index / (across * down), index % (across * down));
            let (cx, cy) = (place % across * self.chunk.0 as usize, place / across * self.chunk.1 as usize);
            // The last strip is as high as what is left.
            let high = self.chunk.1 as usize;
            let rows = if self.tiled { high } else { high.min(h - cy) };
            let start = usize::try_from(self.offsets[index]).unwrap_or(usize::MAX);
            let length = usize::try_from(self.lengths[index]).unwrap_or(usize::MAX);
            let Some(packed) =
                bytes.get(start..start.saturating_add(length).min(bytes.len())).filter(|p| !p.is_empty())
            else {
                cut_off = true;
                continue;
            };
            cut_off |= start.saturating_add(length) > bytes.len();
            let mut raw = self.unpack(packed, self.unpacked(rows))?;
            read += 1;
            raw.resize(self.unpacked(rows), 0);
            let values = self.values(raw, rows);
            self.put(&mut of, &values, (set, cx, cy, rows));
        }
        if read == 0 {
            return Err(Damage::Empty.into());
        }
        let kind = match (self.bits, self.float) {
            (8, _) => SampleKind::Byte,
            (16, false) => SampleKind::Word,
            (16, true) => SampleKind::Half,
            (32, false) => SampleKind::Uint,
            _ => SampleKind::Float,
        };
        Ok(Planes { kind, of, cut_off })
    }

    fn unpack(&self, packed: &[u8], most: usize) -> Result<Vec<u8>, ExchangeError> {
        let mut turned;
        let packed = if self.reversed {
            turned = packed.to_vec();
            turned.iter_mut().for_each(|b| *b = b.reverse_bits());
            turned.as_slice()
        } else {
            packed
        };
        let garbled = |e: &dyn std::fmt::Display| ExchangeError::damaged(Damage::Garbled, e);
        let mut out = Vec::with_capacity(most.min(packed.len().saturating_mul(8)));
        match self.compression {
            1 => out.extend_from_slice(&packed[..packed.len().min(most)]),
            5 => {
                // Codes of files in use grow one step early; a chunk may end without an end code.
                let mut decoder = weezl::decode::Decoder::with_tiff_size_switch(weezl::BitOrder::Msb, 8);
                out.resize(most, 0);
                let (mut from, mut to) = (0, 0);
                while to < most && from < packed.len() {
                    let step = decoder.decode_bytes(&packed[from..], &mut out[to..]);
                    (from, to) = (from + step.consumed_in, to + step.consumed_out);
                    match step.status {
                        Ok(weezl::LzwStatus::Ok) if step.consumed_in + step.consumed_out > 0 => {}
                        Ok(_) => break,
                        Err(e) if to == 0 => return Err(garbled(&e)),
                        Err(_) => break,
                    }
                }
                out.truncate(to);
            }
            8 | 32_946 => {
                let mut stream = flate2::read::ZlibDecoder::new(packed).take(most as u64);
                if let Err(e) = stream.read_to_end(&mut out)
                    && out.is_empty()
                {
                    return Err(garbled(&e));
                }
            }
            32_773 => pack_bits(packed, most, &mut out),
            _ => {
                let decoder = ruzstd::decoding::StreamingDecoder::new(packed).map_err(|e| garbled(&e))?;
                decoder.take(most as u64).read_to_end(&mut out).map_err(|e| garbled(&e))?;
            }
        }
        Ok(out)
    }

    /// Numbers of a chunk, its predictor undone.
    fn values(&self, mut raw: Vec<u8>, rows: usize) -> Vec<f32> {
        let n = self.per_chunk();
        let row = self.unpacked(1);
        if self.predictor == 3 {
            raw.chunks_exact_mut(row).take(rows).for_each(|r| self.float_row(r, n));
        }
        let size = self.bits / 8;
        // The float predictor leaves the most significant byte first.
        let big = self.big_endian || self.predictor == 3;
        let mut whole: Vec<u64> = Vec::new();
        let word = |b: &[u8]| -> u64 {
            let fold = |v: u64, b: &u8| v << 8 | u64::from(*b);
            if big { b.iter().fold(0, fold) } else { b.iter().rev().fold(0, fold) }
        };
        if self.predictor == 2 {
            whole = raw.chunks_exact(size).map(word).collect();
            let mask = u64::MAX >> (64 - self.bits);
            for line in whole.chunks_exact_mut(row / size) {
                for i in n..line.len() {
                    line[i] = line[i].wrapping_add(line[i - n]) & mask;
                }
            }
        }
        let number = |v: u64| -> f32 {
            let v = match (self.bits, self.float) {
                (8, _) => v as f32 / 255.0,
                (16, false) => v as f32 / 65_535.0,
                (32, false) => v as f32,
                (16, true) => half::f16::from_bits(v as u16).to_f32(),
                (32, true) => f32::from_bits(v as u32),
                _ => f64::from_bits(v) as f32,
            };
            if self.inverted && !self.float && self.bits < 32 { 1.0 - v } else { v }
        };
        if whole.is_empty() {
            raw.chunks_exact(size).map(|b| number(word(b))).collect()
        } else {
            whole.into_iter().map(number).collect()
        }
    }

    /// Sums up the differences of bytes, then brings the bytes of each number together.
    fn float_row(&self, row: &mut [u8], n: usize) {
        for i in n..row.len() {
            row[i] = row[i].wrapping_add(row[i - n]);
        }
        let size = self.bits / 8;
        let count = row.len() / size;
        let apart = row.to_vec();
        for i in 0..count {
            for b in 0..size {
                row[i * size + b] = apart[b * count + i];
            }
        }
    }

    fn put(&self, of: &mut [Vec<f32>], values: &[f32], (set, cx, cy, rows): (usize, usize, usize, usize)) {
        let (w, h) = (self.size.0 as usize, self.size.1 as usize);
        let (wide, n) = (self.chunk.0 as usize, self.per_chunk());
        for y in 0..rows.min(h - cy) {
            let line = &values[y * wide * n..];
            let to = (cy + y) * w + cx;
            let count = wide.min(w - cx);
            for c in 0..n {
                let out = &mut of[set + c][to..to + count];
                out.iter_mut().zip(line.iter().skip(c).step_by(n)).for_each(|(o, v)| *o = *v);
            }
        }
    }
}

/// PackBits (TIFF 6.0, section 9).
fn pack_bits(packed: &[u8], most: usize, out: &mut Vec<u8>) {
    let mut at = 0;
    while at < packed.len() && out.len() < most {
        let n = packed[at] as i8;
        at += 1;
        match n {
            0.. => {
                let end = (at + n as usize + 1).min(packed.len());
                out.extend_from_slice(&packed[at..end]);
                at = end;
            }
            -127..=-1 => {
                let Some(&byte) = packed.get(at) else { break };
                out.resize(out.len() + 1 + usize::from(n.unsigned_abs()), byte);
                at += 1;
            }
            -128 => {}
        }
    }
    out.truncate(most);
}
