//! Pixels of an OpenEXR file, chunk by chunk.
//!
//! Chunks are found by the offset table; where the table does not lead to one (a render that was stopped
//! leaves zeros), by walking the file from the end of the table. Each is decoded by itself, in parallel, and
//! a damaged one costs its own rows only.

use crate::error::{Damage, ExchangeError};
use crate::exr_words::{explain, text};
use crate::file::{Channel, MissingRows, Part, SampleKind};
use crate::samples::Samples;
use exr::block::UncompressedBlock;
use exr::block::chunk::{Chunk, CompressedBlock};
use exr::compression::Compression;
use exr::error::Error as ExrError;
use exr::math::Vec2;
use exr::meta::MetaData;
use exr::meta::attribute::{ChannelDescription, ChannelList, IntegerBounds, SampleType};
use exr::meta::header::Header;
use half::f16;
use rayon::prelude::*;
use std::collections::HashMap;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;

/// Chunks that are decoded before their rows are copied: enough to keep every core busy, few enough that
/// decoded chunks never weigh much beside the planes.
const BATCH: usize = 64;

/// First bytes of the chunks of the largest level, by part and place in the part.
pub struct Located(HashMap<(usize, usize, usize), usize>);

/// Samples of a part.
pub struct Decoded {
    /// Channels in the order of the header.
    pub channels: Vec<Channel>,
    /// Rows that lack samples.
    pub missing: Vec<MissingRows>,
}

/// Finds the chunks of all flat parts.
pub fn locate(bytes: &[u8], meta: &MetaData, table_at: usize) -> Located {
    let mut found = HashMap::new();
    let mut at = table_at;
    let mut gaps = false;
    for (part, header) in meta.headers.iter().enumerate() {
        for _ in 0..header.chunk_count {
            let Some(entry) = bytes.get(at..at + 8).and_then(|b| <[u8; 8]>::try_from(b).ok()) else {
                gaps = true;
                break;
            };
            at += 8;
            let offset = u64::from_le_bytes(entry);
            let place = usize::try_from(offset)
                .ok()
                .filter(|&o| o >= table_at && !header.deep)
                .and_then(|o| Some((o, peek(bytes, o, meta)?)));
            match place {
                Some((o, (owner, Some((x, y))))) if owner == part => {
                    found.entry((part, x, y)).or_insert(o);
                }
                Some((_, (owner, None))) if owner == part => {} // a smaller level
                _ => gaps |= !header.deep,
            }
        }
    }
    // The walk starts behind the whole table, also where the table breaks off.
    let entries: usize = meta.headers.iter().map(|h| h.chunk_count).sum();
    if gaps {
        walk(bytes, meta, table_at.saturating_add(entries.saturating_mul(8)), &mut found);
    }
    Located(found)
}

/// Part of the chunk at a byte, and its place in the largest level; no place for smaller levels.
type Peeked = (usize, Option<(usize, usize)>);

/// Reads a chunk's head only (OpenEXR File Layout, "Chunk Layout": part number in multi-part files, then
/// the row or the tile's place and level, then the size).
fn peek(bytes: &[u8], at: usize, meta: &MetaData) -> Option<Peeked> {
    let mut words = bytes.get(at..)?.as_chunks::<4>().0.iter().map(|b| i32::from_le_bytes(*b));
    let part = if meta.requirements.is_multilayer() { usize::try_from(words.next()?).ok()? } else { 0 };
    let header = meta.headers.get(part)?;
    if header.blocks.has_tiles() {
        let [x, y, lx, ly] = [words.next()?, words.next()?, words.next()?, words.next()?];
        let place = (usize::try_from(x).ok()?, usize::try_from(y).ok()?);
        return Some((part, (lx == 0 && ly == 0).then_some(place)));
    }
    let tile = header.get_scan_line_block_tile_coordinates(words.next()?).ok()?;
    Some((part, Some((0, tile.tile_index.y()))))
}

/// The chunk that begins at a byte, and the byte behind it.
fn chunk_at(bytes: &[u8], at: usize, meta: &MetaData) -> Option<(Chunk, usize)> {
    let mut rest = bytes.get(at..)?;
    let before = rest.len();
    let chunk = catch_unwind(AssertUnwindSafe(|| Chunk::read(&mut rest, meta))).ok()?.ok()?;
    Some((chunk, at + (before - rest.len())))
}

fn walk(bytes: &[u8], meta: &MetaData, from: usize, found: &mut HashMap<(usize, usize, usize), usize>) {
    let mut at = from;
    while let Some((_, next)) = chunk_at(bytes, at, meta) {
        if let Some((part, Some((x, y)))) = peek(bytes, at, meta) {
            found.entry((part, x, y)).or_insert(at);
        }
        if next <= at {
            break;
        }
        at = next;
    }
}

/// Pixels of a chunk.
enum Pixels {
    /// As the file stores them: row by row, in a row channel by channel.
    Raw(Vec<u8>),
    /// One block of full rows for each channel, where some are stored at a lower resolution.
    Spread(Vec<Vec<f32>>),
}

struct Piece {
    bounds: IntegerBounds,
    pixels: Pixels,
}

/// Decodes one part.
///
/// # Errors
/// A compression or variant that is not read; a part of which nothing is there.
pub fn decode(
    bytes: &[u8],
    meta: &MetaData,
    part: usize,
    located: &Located,
) -> Result<Decoded, ExchangeError> {
    let header = &meta.headers[part];
    let (width, height) = (header.layer_size.x(), header.layer_size.y());
    let mut planes = planes(header);
    let mut offsets: Vec<usize> =
        located.0.iter().filter(|((p, ..), _)| *p == part).map(|(_, at)| *at).collect();
    offsets.sort_unstable();
    let (mut failure, mut there) = (None, Vec::with_capacity(offsets.len()));
    for batch in offsets.chunks(BATCH) {
        let pieces: Vec<Result<Piece, ExrError>> =
            batch.par_iter().map(|&at| piece(bytes, at, meta, part)).collect();
        let mut whole = Vec::with_capacity(pieces.len());
        for p in pieces {
            match p {
                Ok(p) => whole.push(p),
                Err(e) => failure = Some(e),
            }
        }
        there.extend(whole.iter().map(|p| p.bounds));
        planes.par_iter_mut().enumerate().for_each(|(c, plane)| {
            whole.iter().for_each(|p| copy(p, c, header, plane));
        });
    }
    if there.is_empty() {
        return Err(match failure {
            Some(e) => explain(e),
            None => Damage::Empty.into(),
        });
    }
    let mut covered = vec![0usize; height];
    for b in &there {
        let top = b.position.y() as usize;
        covered[top..top + b.size.y()].iter_mut().for_each(|c| *c += b.size.x());
    }
    let missing = missing_rows(&covered, width, header.own_attributes.layer_position.y());
    if !missing.is_empty() {
        empty(&mut planes, &there, width, height);
    }
    let channels = header
        .channels
        .list
        .iter()
        .zip(planes)
        .map(|(c, samples)| Channel { name: text(&c.name), kind: kind(c), samples: Arc::new(samples) })
        .collect();
    Ok(Decoded { channels, missing })
}

/// A plane for each channel, zero everywhere.
fn planes(header: &Header) -> Vec<Samples> {
    let area = header.layer_size.area();
    let spread = subsampled(header);
    let plane = |c: &ChannelDescription| match c.sample_type {
        SampleType::F16 if !spread => Samples::Half(vec![f16::ZERO; area]),
        _ => Samples::Float(vec![0.0; area]),
    };
    header.channels.list.iter().map(plane).collect()
}

/// Puts NaN where no chunk was.
fn empty(planes: &mut [Samples], there: &[IntegerBounds], width: usize, height: usize) {
    let mut has = vec![false; width * height];
    for b in there {
        let (left, top) = (b.position.x() as usize, b.position.y() as usize);
        for row in top..top + b.size.y() {
            has[row * width + left..][..b.size.x()].fill(true);
        }
    }
    planes.par_iter_mut().for_each(|plane| match plane {
        Samples::Half(v) => v.iter_mut().zip(&has).filter(|(_, h)| !**h).for_each(|(v, _)| *v = f16::NAN),
        Samples::Float(v) => v.iter_mut().zip(&has).filter(|(_, h)| !**h).for_each(|(v, _)| *v = f32::NAN),
    });
}

/// Writes one channel of a chunk into its plane.
fn copy(piece: &Piece, channel: usize, header: &Header, plane: &mut Samples) {
    let (w, h) = (piece.bounds.size.x(), piece.bounds.size.y());
    let (left, top) = (piece.bounds.position.x() as usize, piece.bounds.position.y() as usize);
    let width = header.layer_size.x();
    if w == 0 {
        return;
    }
    let start = |row: usize| (top + row) * width + left;
    match &piece.pixels {
        Pixels::Raw(data) => {
            let size = |c: &ChannelDescription| c.sample_type.bytes_per_sample();
            let list = &header.channels.list;
            let before: usize = list.iter().take(channel).map(size).sum();
            let (whole, kind) = (list.iter().map(size).sum::<usize>(), list[channel].sample_type);
            for row in 0..h {
                let line = &data[(row * whole + before) * w..][..w * kind.bytes_per_sample()];
                store(line, kind, plane, start(row));
            }
        }
        Pixels::Spread(blocks) => {
            let Samples::Float(plane) = plane else { return };
            for (row, from) in blocks[channel].chunks_exact(w).take(h).enumerate() {
                plane[start(row)..][..w].copy_from_slice(from);
            }
        }
    }
}

/// Writes stored samples into a plane of the same width from `at` on.
fn store(line: &[u8], kind: SampleType, plane: &mut Samples, at: usize) {
    let fours = line.as_chunks::<4>().0;
    match (plane, kind) {
        (Samples::Half(v), _) => {
            let twos = line.as_chunks::<2>().0;
            v[at..].iter_mut().zip(twos).for_each(|(v, b)| *v = f16::from_le_bytes(*b));
        }
        (Samples::Float(v), SampleType::U32) => {
            v[at..].iter_mut().zip(fours).for_each(|(v, b)| *v = u32::from_le_bytes(*b) as f32);
        }
        (Samples::Float(v), _) => {
            v[at..].iter_mut().zip(fours).for_each(|(v, b)| *v = f32::from_le_bytes(*b));
        }
    }
}

fn missing_rows(covered: &[usize], width: usize, top: i32) -> Vec<MissingRows> {
    let mut list: Vec<MissingRows> = Vec::new();
    for (row, _) in covered.iter().enumerate().filter(|(_, c)| **c < width) {
        let y = top + row as i32;
        match list.last_mut() {
            Some(m) if m.last + 1 == y => m.last = y,
            _ => list.push(MissingRows { first: y, last: y }),
        }
    }
    list
}

const fn kind(c: &ChannelDescription) -> SampleKind {
    match c.sample_type {
        SampleType::F16 => SampleKind::Half,
        SampleType::F32 => SampleKind::Float,
        SampleType::U32 => SampleKind::Uint,
    }
}

fn piece(bytes: &[u8], at: usize, meta: &MetaData, part: usize) -> Result<Piece, ExrError> {
    let broken = || ExrError::Invalid("a chunk of pixels cannot be decoded".into());
    // The crate asserts, and damaged B44 overflows in debug builds: such a chunk is an error like others.
    catch_unwind(AssertUnwindSafe(|| {
        let (chunk, _) =
            chunk_at(bytes, at, meta).filter(|(c, _)| c.layer_index == part).ok_or_else(broken)?;
        let header = &meta.headers[part];
        let tile = header.get_block_data_indices(&chunk.compressed_block)?;
        let bounds = header.get_absolute_block_pixel_coordinates(tile)?;
        let inside = bounds.position.x() >= 0
            && bounds.position.y() >= 0
            && bounds.position.x() as usize + bounds.size.x() <= header.layer_size.x()
            && bounds.position.y() as usize + bounds.size.y() <= header.layer_size.y();
        if !inside {
            return Err(broken());
        }
        if matches!(header.compression, Compression::DWAA(_) | Compression::DWAB(_)) {
            bounded_dwa(&chunk, bounds.size.area().saturating_mul(header.channels.bytes_per_pixel))?;
        }
        let pixels = if subsampled(header) {
            Pixels::Spread(split(&unpack_subsampled(header, chunk, bounds)?, header, bounds)?)
        } else {
            let data = UncompressedBlock::decompress_chunk(chunk, meta, false)?.data;
            if data.len() != bounds.size.area() * header.channels.bytes_per_pixel {
                return Err(broken());
            }
            Pixels::Raw(data)
        };
        Ok(Piece { bounds, pixels })
    }))
    .unwrap_or_else(|_| Err(broken()))
}

/// Refuses a DWA chunk whose own header promises more than a few times its raw size: the crate allocates
/// by these figures before it reads. They are eleven 64-bit numbers, in this order: version, size of the
/// unknown section unpacked and packed, packed AC, DC and RLE sizes, RLE sizes unpacked and raw, counts of
/// AC and DC values, AC method (OpenEXR's DWA chunk header).
fn bounded_dwa(chunk: &Chunk, raw: usize) -> Result<(), ExrError> {
    let packed = match &chunk.compressed_block {
        CompressedBlock::ScanLine(b) => &b.compressed_pixels_le,
        CompressedBlock::Tile(b) => &b.compressed_pixels_le,
        _ => return Ok(()),
    };
    if packed.len() == raw {
        return Ok(()); // stored as it is
    }
    let most = (raw as u64).saturating_mul(4).saturating_add(1 << 16);
    let figures = packed.as_chunks::<8>().0.iter().take(10).map(|b| u64::from_le_bytes(*b));
    if figures.skip(1).any(|v| v > most) {
        return Err(ExrError::Invalid("a chunk of pixels promises more than it can hold".into()));
    }
    Ok(())
}

fn subsampled(header: &Header) -> bool {
    header.channels.list.iter().any(|c| c.sampling != Vec2(1, 1))
}

/// Samples of a channel in a row of the file (counted from the top of the frame), and whether that row
/// has any.
fn samples_in(c: &ChannelDescription, bounds: IntegerBounds, left: i32, y: i32) -> usize {
    let (sx, sy) = (c.sampling.x().max(1) as i64, c.sampling.y().max(1) as i64);
    if i64::from(y).rem_euclid(sy) != 0 {
        return 0;
    }
    // Samples lie where x is a multiple of the sampling rate (OpenEXR File Layout, "Channels").
    let first = i64::from(left) + i64::from(bounds.position.x());
    let last = first + bounds.size.x() as i64 - 1;
    (last.div_euclid(sx) - (first - 1).div_euclid(sx)).max(0) as usize
}

/// Raw bytes of a chunk that has subsampled channels. The crate's codecs count bytes as if no channel
/// were, so those that only pack bytes are given a stand-in header whose one channel has the right count.
fn unpack_subsampled(header: &Header, chunk: Chunk, bounds: IntegerBounds) -> Result<Vec<u8>, ExrError> {
    use Compression::{RLE, Uncompressed, ZIP1, ZIP16};
    let position = header.own_attributes.layer_position;
    let count: usize = (0..bounds.size.y() as i32)
        .flat_map(|row| {
            header.channels.list.iter().map(move |c| {
                let y = position.y() + bounds.position.y() + row;
                samples_in(c, bounds, position.x(), y) * c.sample_type.bytes_per_sample()
            })
        })
        .sum();
    let CompressedBlock::ScanLine(block) = chunk.compressed_block else {
        return Err(ExrError::NotSupported("subsampled tiles".into()));
    };
    let packed = block.compressed_pixels_le;
    if packed.len() == count {
        return Ok(packed);
    }
    if !matches!(header.compression, Uncompressed | RLE | ZIP1 | ZIP16) {
        return Err(ExrError::NotSupported("subsampled channels with this codec".into()));
    }
    let mut like = header.clone();
    like.channels =
        ChannelList::new([ChannelDescription::new("Y", SampleType::F16, true)].into_iter().collect());
    like.layer_size = Vec2(count.div_ceil(2), 1);
    let section = IntegerBounds { position: Vec2(0, 0), size: like.layer_size };
    header.compression.decompress_image_section_from_le(&like, packed, section, false)
}

/// Bytes of a chunk (row by row, in a row channel by channel) as one block of `f32` for each channel.
fn split(data: &[u8], header: &Header, bounds: IntegerBounds) -> Result<Vec<Vec<f32>>, ExrError> {
    let (w, h) = (bounds.size.x(), bounds.size.y());
    let position = header.own_attributes.layer_position;
    let mut out: Vec<Vec<f32>> = header.channels.list.iter().map(|_| Vec::with_capacity(w * h)).collect();
    let mut rest = data;
    for row in 0..h {
        let y = position.y() + bounds.position.y() + row as i32;
        for (c, samples) in header.channels.list.iter().zip(&mut out) {
            let count = if c.sampling == Vec2(1, 1) { w } else { samples_in(c, bounds, position.x(), y) };
            let size = count * c.sample_type.bytes_per_sample();
            let (line, after) = rest
                .split_at_checked(size)
                .ok_or_else(|| ExrError::Invalid("a chunk of pixels is too short".into()))?;
            rest = after;
            if count == w {
                widen(line, c.sample_type, samples);
            } else {
                spread(line, c, (w, samples.len() / w.max(1)), samples);
            }
        }
    }
    Ok(out)
}

/// Appends stored samples as `f32`.
fn widen(line: &[u8], kind: SampleType, out: &mut Vec<f32>) {
    match kind {
        SampleType::F16 => {
            let halves = line.as_chunks::<2>().0.iter().map(|b| f16::from_le_bytes(*b));
            Samples::Half(halves.collect()).append_to(out);
        }
        SampleType::F32 => out.extend(line.as_chunks::<4>().0.iter().map(|b| f32::from_le_bytes(*b))),
        SampleType::U32 => out.extend(line.as_chunks::<4>().0.iter().map(|b| u32::from_le_bytes(*b) as f32)),
    }
}

/// Appends one full row of a subsampled channel: samples repeated to the right, rows without samples
/// repeated from the row above (or empty at the top of a chunk that starts between two).
fn spread(line: &[u8], c: &ChannelDescription, (w, row): (usize, usize), out: &mut Vec<f32>) {
    if line.is_empty() {
        match row.checked_sub(1) {
            Some(above) => out.extend_from_within(above * w..above * w + w),
            None => out.resize(w, f32::NAN),
        }
        return;
    }
    let mut few = Vec::new();
    widen(line, c.sample_type, &mut few);
    let rate = c.sampling.x().max(1);
    out.extend((0..w).map(|x| few[(x / rate).min(few.len() - 1)]));
}

impl Part {
    /// The places of a part's channels that hold subsampled data, for [`crate::luminance_chroma`].
    pub(crate) fn position_of(&self, name: &str) -> Option<usize> {
        self.channels.iter().position(|c| c.name == name)
    }
}
