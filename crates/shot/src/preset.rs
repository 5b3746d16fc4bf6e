//! Presets: steps kept under a name, and put on another element.
//!
//! What a step reads is bound again by role; what does not fit the new element is said, and the step is left switched
//! off rather than out.

use crate::check;
use crate::document::{Element, FORMAT, Limit, MattePart, NamedMatte, ReadsPass, Shot, Step};
use crate::error::ShotError;
use crate::params::{SlotMut, scale_lengths};
use crate::parts::PartFrom;
use crate::tracks;
use crate::wants::Want;
use jugata_core::{Role, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use ts_rs::TS;

/// Steps with all that they need, away from any shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Preset {
    /// Version of the document's form.
    pub format: u32,
    /// Name for people.
    pub name: String,
    /// The steps, in order.
    pub steps: Vec<Step>,
    /// Mattes that their limits use by name, each from those before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub mattes: Vec<NamedMatte>,
    /// Names of the passes that steps chose by number.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub passes: Vec<ChosenPass>,
    /// How high the letters or the drawing were that it was made on, full-resolution px; none of a render.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub height: Option<f32>,
}

/// What becomes of lengths in px where a preset is put on letters of another height.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Lengths {
    /// They grow and shrink with the letters.
    #[default]
    Fitted,
    /// They stay what they are.
    Kept,
}

/// A pass that a step chose, by what can be found again elsewhere.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ChosenPass {
    /// Its number where the preset was saved.
    pub pass: u32,
    /// What it meant.
    pub role: Role,
    /// Its name.
    pub name: String,
}

/// A shot with a preset on one of its elements.
#[derive(Clone, Debug, Serialize, TS)]
pub struct Applied {
    /// The shot.
    pub shot: Shot,
    /// Numbers of the new steps.
    pub steps: Vec<u32>,
    /// What did not fit, in sentences.
    pub missing: Vec<String>,
}

/// Most steps of a preset: as many as an element may have.
const STEPS: usize = 1000;

impl Preset {
    /// Of steps of an element of a shot with this frame, in their order there.
    ///
    /// # Errors
    /// No step, or one that is not there.
    pub fn of(name: &str, element: &Element, frame: Window, steps: &[u32]) -> Result<Self, ShotError> {
        if let Some(id) = steps.iter().find(|id| element.step(**id).is_none()) {
            return Err(ShotError::Missing { what: "step", id: *id });
        }
        let mut chosen: Vec<Step> = element.steps.iter().filter(|s| steps.contains(&s.id)).cloned().collect();
        let reads = chosen.iter().flat_map(|s| &s.reads);
        let passes = reads.filter_map(|r| {
            let found = element.provider(r.pass)?;
            Some(ChosenPass { pass: r.pass, role: r.role, name: found.name().to_owned() })
        });
        let passes = passes.collect();
        let used = used_mattes(element, &chosen);
        let mut mattes: Vec<NamedMatte> =
            element.mattes.iter().filter(|m| used.contains(&m.id)).cloned().collect();
        // A plane is one element's own, and stays behind.
        tracks::release(&mut chosen, &mut mattes, |_| false);
        let (name, height) = (name.trim().to_owned(), height_of(element, frame));
        let preset = Self { format: FORMAT, name, steps: chosen, mattes, passes, height };
        preset.check()?;
        Ok(preset)
    }

    /// Checks that it could be put on some element.
    ///
    /// # Errors
    /// What is wrong, in a sentence.
    pub fn check(&self) -> Result<(), ShotError> {
        let wrong = |what: &str| ShotError::Parameter { place: "A preset".into(), what: what.into() };
        if self.format != FORMAT {
            return Err(wrong("it comes from another version"));
        }
        if self.name.trim().is_empty() {
            return Err(wrong("it needs a name"));
        }
        if self.steps.is_empty() || self.steps.len() > STEPS {
            return Err(wrong("it needs steps, and not more than a thousand"));
        }
        if self.height.is_some_and(|h| !(h > 0.0 && h <= 1e6)) {
            return Err(wrong("its letters have a height that is not possible"));
        }
        // A shot of nothing but these steps must be sound.
        let mut element = Element::new(1, self.name.clone());
        (element.steps, element.mattes) = (self.steps.clone(), self.mattes.clone());
        let display = Window::of_size(1, 1);
        let name = self.name.clone();
        check::check(&Shot {
            format: FORMAT,
            name,
            display,
            frames: None,
            rate: 24.0,
            elements: vec![element],
            drives: Vec::new(),
        })
    }

    /// The steps in sentences.
    pub fn sentences(&self) -> Vec<String> {
        self.steps.iter().map(|s| s.sentence(&self.mattes)).collect()
    }

    /// Puts the steps at the end of an element's; lengths are fitted where the height of both letters is known.
    ///
    /// # Errors
    /// No such element; a result that is no sound document.
    pub fn apply(&self, shot: &Shot, element: u32, lengths: Lengths) -> Result<Applied, ShotError> {
        self.check()?;
        let mut shot = shot.clone();
        let frame = shot.display;
        let others: BTreeSet<u32> = shot.elements.iter().map(|e| e.id).filter(|id| *id != element).collect();
        let e = shot.element_mut(element).ok_or(ShotError::Missing { what: "element", id: element })?;
        let mattes = self.bring_mattes(e);
        let by = self.height.zip(height_of(e, frame)).map(|(from, to)| to / from);
        let by = by.filter(|by| lengths == Lengths::Fitted && by.is_finite() && *by > 0.0);
        let (mut steps, mut missing) = (Vec::new(), Vec::new());
        let mut numbers = BTreeMap::new();
        for old in &self.steps {
            let mut step = Step { id: e.free_step_id(), reads: self.bound(old, e), ..old.clone() };
            numbers.insert(old.id, step.id);
            // Where the picture is put has nothing to do with how high its letters are.
            if let Some(by) = by.filter(|_| !step.does.kind().is_move()) {
                scale_lengths(step.does.kind_mut(), by);
            }
            if renamed(&mut step, &numbers) {
                missing.push(format!("{} went by a step that the preset does not hold.", step.does.title()));
            }
            rematted(&mut step, &mattes);
            let lacking = lacking(&step, e, &others);
            if !lacking.is_empty() {
                step.on = false;
                let title = step.does.title();
                missing.extend(lacking.iter().map(|what| format!("{title} {what}, and is switched off.")));
            } else if let Some(what) = to_look_at(&step, e) {
                missing.push(format!("{} {what}", step.does.title()));
            }
            steps.push(step.id);
            e.steps.push(step);
        }
        check::check(&shot)?;
        Ok(Applied { shot, steps, missing })
    }

    /// What a step chooses to read, found again by role and name; without a pass of that name it reads what serves.
    fn bound(&self, step: &Step, element: &Element) -> Vec<ReadsPass> {
        let find = |r: &ReadsPass| {
            let was = self.passes.iter().find(|p| p.pass == r.pass && p.role == r.role)?;
            let now = element.providers().find(|p| p.role() == was.role && p.name() == was.name)?;
            Some(ReadsPass { role: r.role, pass: now.id() })
        };
        step.reads.iter().filter_map(find).collect()
    }

    /// Adds the named mattes that the element lacks; from their old numbers to the new ones.
    fn bring_mattes(&self, element: &mut Element) -> BTreeMap<u32, u32> {
        let mut numbers = BTreeMap::new();
        for matte in &self.mattes {
            let mut wanted = matte.matte.clone();
            renumber(&mut wanted, &numbers);
            let same = element.mattes.iter().find(|m| m.name == matte.name && m.matte == wanted);
            let id = same.map(|m| m.id).unwrap_or_else(|| {
                let id = element.mattes.iter().map(|m| m.id).max().unwrap_or(0).saturating_add(1);
                element.mattes.push(NamedMatte { id, name: matte.name.clone(), matte: wanted });
                id
            });
            numbers.insert(matte.id, id);
        }
        numbers
    }
}

/// Lets a step name other steps by their new numbers; whether it named one that is not there.
fn renamed(step: &mut Step, numbers: &BTreeMap<u32, u32>) -> bool {
    let mut lost = false;
    step.does.kind_mut().each_mut(&mut |field, slot| {
        if let SlotMut::Named(id @ Some(_)) = slot
            && NAMES_A_STEP.contains(&field.means)
        {
            *id = id.and_then(|old| numbers.get(&old).copied());
            lost |= id.is_none();
        }
    });
    lost
}

/// Lets a step name the mattes of its element by their new numbers.
fn rematted(step: &mut Step, numbers: &BTreeMap<u32, u32>) {
    if let Some(limit) = &mut step.only_where {
        renumber(limit, numbers);
    }
    step.does.kind_mut().each_mut(&mut |field, slot| {
        if let SlotMut::Named(id @ Some(_)) = slot
            && field.means.ends_with("-matte")
        {
            *id = id.and_then(|old| numbers.get(&old).copied());
        }
    });
}

/// What the number of another step means.
const NAMES_A_STEP: [&str; 2] = ["lens-step", "step"];

/// Numbers of the named mattes that steps use, those within mattes too.
fn used_mattes(element: &Element, steps: &[Step]) -> BTreeSet<u32> {
    let mut open: Vec<u32> = steps.iter().flat_map(mattes_of).collect();
    let mut used = BTreeSet::new();
    while let Some(id) = open.pop() {
        if used.insert(id)
            && let Some(matte) = element.mattes.iter().find(|m| m.id == id)
        {
            open.extend(named(&matte.matte));
        }
    }
    used
}

/// Numbers of the named mattes that a step uses itself.
fn mattes_of(step: &Step) -> Vec<u32> {
    let wants = step.does.kind().wants();
    let asked = wants.iter().filter_map(|w| if let Want::Matte(id) = w { Some(*id) } else { None });
    asked.chain(step.only_where.iter().flat_map(named)).collect()
}

fn named(limit: &Limit) -> Vec<u32> {
    let of = |p: &MattePart| if let PartFrom::Matte(id) = p.by.kind().comes_from() { Some(id) } else { None };
    limit.parts.iter().filter_map(of).collect()
}

fn renumber(limit: &mut Limit, numbers: &BTreeMap<u32, u32>) {
    limit.parts.iter_mut().for_each(|p| p.by.kind_mut().renumber(&|id| numbers.get(&id).copied()));
}

/// How high an element's letters are, or what it draws.
fn height_of(element: &Element, frame: Window) -> Option<f32> {
    element.made.as_ref()?.kind().height(frame)
}

/// What an element can give for a role: a pass, or what is derived from others.
fn offers(element: &Element, role: Role) -> bool {
    let has = |role| element.providers().any(|p| p.role() == role);
    match role {
        Role::Position => has(role) || (has(Role::Depth) && element.camera.is_some()),
        Role::Alpha => has(role) || has(Role::Beauty),
        role => has(role),
    }
}

/// Why a step cannot work on an element.
fn lacking(step: &Step, element: &Element, others: &BTreeSet<u32>) -> Vec<String> {
    let wants = step.does.kind().wants();
    let needs = wants.iter().filter_map(Want::role).filter(|(_, required)| *required).map(|(role, _)| role);
    let roles: BTreeSet<Role> = needs.filter(|role| !offers(element, *role)).collect();
    let mut list: Vec<String> =
        roles.iter().map(|r| format!("needs {}, which {} has none of", r.label(), element.name)).collect();
    let limits = step.only_where.iter().flat_map(|l| &l.parts).filter_map(|p| p.by.kind().role());
    let limits: BTreeSet<Role> = limits.filter(|role| !offers(element, *role)).collect();
    list.extend(
        limits.iter().map(|r| format!("is limited by {}, which {} has none of", r.label(), element.name)),
    );
    if wants.iter().filter_map(Want::element).any(|id| !others.contains(&id)) {
        list.push("needs an element that is not in this shot".into());
    }
    list
}

/// What somebody should look at, though it works.
fn to_look_at(step: &Step, element: &Element) -> Option<String> {
    let parts = &step.only_where.as_ref()?.parts;
    let of_objects = |p: &MattePart| matches!(p.by.kind().role(), Some(Role::ObjectId | Role::HashedId));
    let objects = parts.iter().any(of_objects);
    objects.then(|| format!("is limited to objects by number; see that they are those of {}.", element.name))
}
