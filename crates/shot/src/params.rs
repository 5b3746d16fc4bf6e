//! Parameters as typed slots: what `#[parameters]` makes of a declaration, and what all parameters share.

use crate::files::MediaFile;
use glam::DVec2;
use serde::{Deserialize, Deserializer};
use std::collections::HashSet;

/// A parameter as it was declared.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Field {
    /// Name in documents.
    pub name: &'static str,
    /// Word for people.
    pub label: &'static str,
    /// After its number; empty for none.
    pub unit: &'static str,
    /// Least and greatest possible value, of each component.
    pub range: Option<[f32; 2]>,
    /// What the number is where that is more than a number; empty for none.
    pub means: &'static str,
    /// Of a list: word for one of it.
    pub item: &'static str,
    /// Of a list: how many there may be.
    pub most: Option<usize>,
}

/// A parameter's value.
pub enum Slot<'a> {
    /// A number.
    Number(f32),
    /// A whole number.
    Whole(u32),
    /// On or off.
    Switch(bool),
    /// Two numbers: a place in the picture, two ends.
    Pair([f32; 2]),
    /// Three numbers: a colour, a direction, a place in the scene.
    Triple([f32; 3]),
    /// Places in the picture, one after the other.
    Path(&'a [[f32; 2]]),
    /// A file.
    File(Option<&'a MediaFile>),
    /// Numbers of elements, passes or objects.
    Numbers(&'a [u32]),
    /// A list of things with numbers that stay.
    List(&'a dyn List),
    /// So many of something that has no parameters.
    Many(usize),
    /// Some words.
    Text(&'a str),
    /// One of a few.
    Choice,
}

/// A parameter's value, to change.
pub enum SlotMut<'a> {
    /// A number.
    Number(&'a mut f32),
    /// A whole number.
    Whole(&'a mut u32),
    /// On or off.
    Switch(&'a mut bool),
    /// Two numbers.
    Pair(&'a mut [f32; 2]),
    /// Three numbers.
    Triple(&'a mut [f32; 3]),
    /// The number of something that is named: a step, an element.
    Named(&'a mut Option<u32>),
    /// A list of things with numbers that stay.
    List(&'a mut dyn List),
    /// What is not driven by numbers: a path, a file, words, one of a few.
    Choice,
}

/// A place or a way of a document, px.
pub(crate) fn px([x, y]: [f32; 2]) -> DVec2 {
    DVec2::new(x.into(), y.into())
}

/// A place in a document as one on a raster at a scale: px of the whole picture, divided by the scale's step.
pub(crate) fn at_scale([x, y]: [f32; 2], scale: jugata_core::Scale) -> glam::Vec2 {
    glam::Vec2::new(scale.length(x), scale.length(y))
}

/// What has parameters.
pub trait Parameters {
    /// How they were declared, in order.
    fn fields(&self) -> &'static [Field];
    /// Shows each with its value.
    fn each(&self, see: &mut dyn FnMut(&'static Field, Slot<'_>));
    /// Shows each with its value, to change.
    fn each_mut(&mut self, see: &mut dyn FnMut(&'static Field, SlotMut<'_>));
}

/// What stands in a list under a number that stays with it.
pub trait Identified {
    /// Its number; 0 for one that has none yet.
    fn id(&self) -> u32;
    /// Gives it a number.
    fn set_id(&mut self, id: u32);
}

/// Gives numbers to those that have none.
pub fn settle<T: Identified>(list: &mut [T]) {
    let mut free = list.iter().map(Identified::id).max().unwrap_or(0);
    for one in list.iter_mut().filter(|one| one.id() == 0) {
        free = free.saturating_add(1);
        one.set_id(free);
    }
}

/// Reads a list whose things get numbers where they have none.
pub(crate) fn listed<'de, D: Deserializer<'de>, T: Deserialize<'de> + Identified>(
    from: D,
) -> Result<Vec<T>, D::Error> {
    let mut list = Vec::<T>::deserialize(from)?;
    settle(&mut list);
    Ok(list)
}

/// `Err` with words where two of a list have one number; what was not read from a document may have none yet.
pub(crate) fn distinct(item: &str, ids: impl Iterator<Item = u32>) -> Result<(), String> {
    let mut seen = HashSet::new();
    let mut twice = ids.filter(|id| *id != 0 && !seen.insert(*id));
    twice.next().map_or(Ok(()), |id| Err(format!("two {item}s have the number {id}")))
}

/// Multiplies every length in px, also of what stands in lists, and holds it to its range. Places stay where they are.
pub fn scale_lengths(of: &mut dyn Parameters, by: f32) {
    of.each_mut(&mut |field, slot| {
        let [low, high] = field.range.unwrap_or([f32::MIN, f32::MAX]);
        let scaled = |v: &mut f32| *v = (*v * by).clamp(low, high);
        match slot {
            SlotMut::List(list) => {
                for place in 0..list.len() {
                    if let Some((_, one)) = list.at_mut(place) {
                        scale_lengths(one, by);
                    }
                }
            }
            SlotMut::Number(v) if field.unit == "px" => scaled(v),
            SlotMut::Pair(way) if field.unit == "px" && matches!(field.means, "offset" | "moved") => {
                way.iter_mut().for_each(scaled);
            }
            _ => {}
        }
    });
}

/// A list of things that have parameters and numbers.
pub trait List {
    /// How many there are.
    fn len(&self) -> usize;
    /// Whether there are none.
    fn is_empty(&self) -> bool {
        self.len() == 0
    }
    /// One by its place, with its number.
    fn at(&self, place: usize) -> Option<(u32, &dyn Parameters)>;
    /// One by its place, with its number, to change.
    fn at_mut(&mut self, place: usize) -> Option<(u32, &mut dyn Parameters)>;
}

impl<T: Parameters + Identified> List for Vec<T> {
    fn len(&self) -> usize {
        Vec::len(self)
    }
    fn at(&self, place: usize) -> Option<(u32, &dyn Parameters)> {
        self.get(place).map(|one| (one.id(), one as &dyn Parameters))
    }
    fn at_mut(&mut self, place: usize) -> Option<(u32, &mut dyn Parameters)> {
        self.get_mut(place).map(|one| (one.id(), one as &mut dyn Parameters))
    }
}

/// What a parameter's type is as a slot.
pub trait IsSlot {
    /// Its value.
    fn slot(&self) -> Slot<'_>;
    /// Its value, to change.
    fn slot_mut(&mut self) -> SlotMut<'_>;
}

macro_rules! slots {
    ($($type:ty => $name:ident),+ $(,)?) => {
        $(impl IsSlot for $type {
            fn slot(&self) -> Slot<'_> {
                Slot::$name(*self)
            }
            fn slot_mut(&mut self) -> SlotMut<'_> {
                SlotMut::$name(self)
            }
        })+
    };
}

slots!(f32 => Number, u32 => Whole, bool => Switch, [f32; 2] => Pair, [f32; 3] => Triple);

impl<T: Parameters + Identified> IsSlot for Vec<T> {
    fn slot(&self) -> Slot<'_> {
        Slot::List(self)
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::List(self)
    }
}

impl IsSlot for Vec<[f32; 2]> {
    fn slot(&self) -> Slot<'_> {
        Slot::Path(self)
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Choice
    }
}

impl IsSlot for Vec<u32> {
    fn slot(&self) -> Slot<'_> {
        Slot::Numbers(self)
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Choice
    }
}

impl IsSlot for Option<u32> {
    fn slot(&self) -> Slot<'_> {
        Slot::Choice
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Named(self)
    }
}

impl IsSlot for Option<[f32; 2]> {
    fn slot(&self) -> Slot<'_> {
        self.map_or(Slot::Choice, Slot::Pair)
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        self.as_mut().map_or(SlotMut::Choice, SlotMut::Pair)
    }
}

impl IsSlot for Option<MediaFile> {
    fn slot(&self) -> Slot<'_> {
        Slot::File(self.as_ref())
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Choice
    }
}

impl IsSlot for String {
    fn slot(&self) -> Slot<'_> {
        Slot::Text(self)
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Choice
    }
}

/// Shows the parameter at a path of fields and item numbers.
pub fn at_path(of: &dyn Parameters, path: &[&str], see: &mut dyn FnMut(&'static Field, Slot<'_>)) {
    let [name, rest @ ..] = path else { return };
    of.each(&mut |field, slot| {
        if field.name == *name {
            match (slot, rest) {
                (Slot::List(list), [id, rest @ ..]) => {
                    let mut all = (0..list.len()).filter_map(|place| list.at(place));
                    if let Some((_, one)) = all.find(|(own, _)| own.to_string() == *id) {
                        at_path(one, rest, see);
                    }
                }
                (slot, _) => see(field, slot),
            }
        }
    });
}

/// Longest text of a parameter, characters.
pub(crate) const TEXT: usize = 10_000;

/// Checks every value against its declaration.
///
/// # Errors
/// What is wrong, as a sentence without its place.
pub fn check(of: &dyn Parameters) -> Result<(), String> {
    let mut wrong = None;
    of.each(&mut |field, slot| {
        if wrong.is_none() {
            wrong = check_slot(field, &slot).err();
        }
    });
    wrong.map_or(Ok(()), Err)
}

fn check_slot(field: &Field, slot: &Slot<'_>) -> Result<(), String> {
    match slot {
        Slot::Number(v) => in_range(field, &[*v]),
        Slot::Whole(v) => in_range(field, &[*v as f32]),
        Slot::Pair(v) => in_range(field, v),
        Slot::Triple(v) => in_range(field, v),
        Slot::Path(points) => {
            counted(field, points.len())?;
            points.iter().try_for_each(|p| in_range(field, p))
        }
        Slot::Many(count) => counted(field, *count),
        Slot::Numbers(all) => counted(field, all.len()),
        Slot::List(list) => {
            counted(field, list.len())?;
            let ids = || (0..list.len()).filter_map(|place| list.at(place)).map(|(id, _)| id);
            distinct(field.item, ids())?;
            (0..list.len()).filter_map(|place| list.at(place)).try_for_each(|(id, one)| {
                check(one).map_err(|what| match list.len() {
                    1 => what,
                    _ => format!("{} {id}: {what}", field.item),
                })
            })
        }
        Slot::File(Some(f)) if !f.media.is_sound() => {
            Err(format!("the media of “{}” is not a BLAKE3 hash", field.label))
        }
        Slot::Text(t) if t.chars().count() > TEXT => {
            Err(format!("“{}” is longer than {TEXT} characters", field.label))
        }
        Slot::File(_) | Slot::Text(_) | Slot::Switch(_) | Slot::Choice => Ok(()),
    }
}

fn counted(field: &Field, count: usize) -> Result<(), String> {
    match field.most {
        Some(most) if count > most => Err(format!("{count} {}s are more than {most}", field.item)),
        _ => Ok(()),
    }
}

fn in_range(field: &Field, values: &[f32]) -> Result<(), String> {
    let [low, high] = field.range.unwrap_or([f32::MIN, f32::MAX]);
    match values.iter().find(|v| !(v.is_finite() && (low..=high).contains(*v))) {
        None => Ok(()),
        Some(v) if field.range.is_none() => Err(format!("“{}” is {v}, which is not a number", field.label)),
        Some(v) => Err(format!("“{}” is {v}, and must lie between {low} and {high}", field.label)),
    }
}

/// `Err` with words unless `v` is finite and inside `low..=high`.
///
/// # Errors
/// A sentence without its place.
pub fn range(what: &str, v: f32, low: f32, high: f32) -> Result<(), String> {
    if v.is_finite() && (low..=high).contains(&v) {
        Ok(())
    } else {
        Err(format!("{what} is {v}, and must lie between {low} and {high}"))
    }
}

/// `Err` with words for more than `most` of something.
///
/// # Errors
/// The end of a sentence.
pub(crate) fn few(what: &str, count: usize, most: usize) -> Result<(), String> {
    if count > most { Err(format!("{count} {what} are more than {most}")) } else { Ok(()) }
}
