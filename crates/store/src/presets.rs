//! Presets: steps kept under a name.

use crate::error::StoreError;
use crate::schema::presets;
use crate::shots::Store;
use crate::written::written;
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use jugata_shot::preset::Preset;
use serde_json::Value;
use uuid::Uuid;

/// A preset in the list.
#[derive(Clone, Debug)]
pub struct PresetRow {
    /// Number.
    pub id: Uuid,
    /// The steps and their name.
    pub preset: Preset,
    /// When it was saved.
    pub made_at: DateTime<Utc>,
    /// Whether it has a picture.
    pub pictured: bool,
}

impl Store {
    /// Every preset, by name.
    ///
    /// # Errors
    /// The database; a preset that this build cannot read.
    pub fn presets(&self) -> Result<Vec<PresetRow>, StoreError> {
        let rows: Vec<(Uuid, Value, DateTime<Utc>, bool)> = presets::table
            .select((presets::id, presets::preset, presets::made_at, presets::picture.is_not_null()))
            .order((presets::name, presets::made_at))
            .load(&mut self.connection()?)?;
        rows.into_iter()
            .map(|(id, preset, made_at, pictured)| {
                Ok(PresetRow { id, preset: read(preset)?, made_at, pictured })
            })
            .collect()
    }

    /// Keeps a preset, with a PNG of what it does.
    ///
    /// # Errors
    /// The database.
    pub fn save_preset(&self, preset: &Preset, picture: Option<&[u8]>) -> Result<Uuid, StoreError> {
        let id = Uuid::new_v4();
        diesel::insert_into(presets::table)
            .values((
                presets::id.eq(id),
                presets::name.eq(&preset.name),
                presets::preset.eq(written(preset)?),
                presets::picture.eq(picture),
            ))
            .execute(&mut self.connection()?)?;
        Ok(id)
    }

    /// A preset.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn preset(&self, id: Uuid) -> Result<Preset, StoreError> {
        let row = presets::table.find(id).select(presets::preset);
        let found: Option<Value> = row.first(&mut self.connection()?).optional()?;
        read(found.ok_or(StoreError::Missing { what: "preset" })?)
    }

    /// Puts a preset in the place of one that is kept, as one with another name; its picture stays.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn change_preset(&self, id: Uuid, preset: &Preset) -> Result<(), StoreError> {
        let as_it_is = (presets::name.eq(&preset.name), presets::preset.eq(written(preset)?));
        match diesel::update(presets::table.find(id)).set(as_it_is).execute(&mut self.connection()?)? {
            0 => Err(StoreError::Missing { what: "preset" }),
            _ => Ok(()),
        }
    }

    /// Its picture, a PNG.
    ///
    /// # Errors
    /// None of that number, or none with a picture; the database.
    pub fn preset_picture(&self, id: Uuid) -> Result<Vec<u8>, StoreError> {
        let row = presets::table.find(id).select(presets::picture);
        let found: Option<Option<Vec<u8>>> = row.first(&mut self.connection()?).optional()?;
        found.flatten().ok_or(StoreError::Missing { what: "preset" })
    }

    /// Takes a preset away; what was made with it stays.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn remove_preset(&self, id: Uuid) -> Result<(), StoreError> {
        match diesel::delete(presets::table.find(id)).execute(&mut self.connection()?)? {
            0 => Err(StoreError::Missing { what: "preset" }),
            _ => Ok(()),
        }
    }
}

fn read(value: Value) -> Result<Preset, StoreError> {
    Ok(serde_json::from_value(value)?)
}
