//! Shots kept in order: copies, what is put away or deleted, names of revisions, and media that nothing names any more.

use crate::error::StoreError;
use crate::schema::{media, revisions, shots};
use crate::sequences::forget_unnamed;
use crate::shots::{Loaded, Store, create};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use jugata_shot::document::MediaId;
use jugata_shot::{Shot, check};
use uuid::Uuid;

/// Characters of a name.
const NAME: usize = 120;

fn tidy(name: &str) -> String {
    name.trim().chars().filter(|c| !c.is_control()).take(NAME).collect()
}

/// What the media store holds.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Usage {
    /// Files.
    pub files: i64,
    /// Their bytes.
    pub bytes: i64,
    /// Files that no revision, no preset and no job names.
    pub unused: i64,
    /// Their bytes.
    pub unused_bytes: i64,
}

#[derive(QueryableByName)]
struct Hash {
    #[diesel(sql_type = Text)]
    hash: String,
    #[diesel(sql_type = BigInt)]
    bytes: i64,
}

/// Media whose hash stands in no document. Hashes are 64 hexadecimal digits, so that text is enough to find them.
const UNUSED: &str = "SELECT hash, bytes FROM media WHERE NOT EXISTS \
    (SELECT 1 FROM named WHERE named.hash = media.hash)";

/// Every hash that a revision, a preset or a job names.
const NAMED: &str = "WITH named AS (SELECT DISTINCT m[1] AS hash FROM \
    (SELECT document::text AS t FROM revisions UNION ALL SELECT frames::text FROM frame_lists \
    UNION ALL SELECT preset::text FROM presets) d, \
    LATERAL regexp_matches(d.t, '\"([0-9a-f]{64})\"', 'g') AS m UNION \
    SELECT r.media FROM job_frames f JOIN rendered r ON r.content = f.content)";

impl Store {
    /// Gives a shot another name, as a change that can be undone.
    ///
    /// # Errors
    /// No such shot; a name that is empty; the database.
    pub fn rename(&self, id: Uuid, name: &str) -> Result<Loaded, StoreError> {
        let name = named(name)?;
        loop {
            let now = self.load(id)?;
            let shot = Shot { name: name.clone(), ..now.shot };
            match self.append(id, now.revision, "Rename the shot", &shot) {
                // Somebody changed it in between: on top of that, then.
                Err(StoreError::Stale { .. }) => {}
                other => return other,
            }
        }
    }

    /// A new shot that begins as another one stands.
    ///
    /// # Errors
    /// No such shot; the database.
    pub fn copy(&self, id: Uuid) -> Result<Uuid, StoreError> {
        let shot = self.load(id)?.shot;
        let name = format!("{} copy", shot.name.chars().take(NAME - 5).collect::<String>());
        let label = format!("Copy {}", shot.name);
        let shot = Shot { name, ..shot };
        check::check(&shot)?;
        (*self.connection()?).transaction(|db| create(db, &shot, &label))
    }

    /// Puts a shot away, or back into the list.
    ///
    /// # Errors
    /// No such shot; the database.
    pub fn put_away(&self, id: Uuid, away: bool) -> Result<(), StoreError> {
        let row = diesel::update(shots::table.find(id)).set(shots::put_away.eq(away));
        one(row.execute(&mut self.connection()?)?, "shot")
    }

    /// Deletes a shot, or brings a deleted one back.
    ///
    /// # Errors
    /// No such shot; the database.
    pub fn delete(&self, id: Uuid, deleted: bool) -> Result<(), StoreError> {
        let at: Option<DateTime<Utc>> = deleted.then(Utc::now);
        let row = diesel::update(shots::table.find(id)).set(shots::deleted_at.eq(at));
        one(row.execute(&mut self.connection()?)?, "shot")
    }

    /// Gives a revision a name, or takes it away.
    ///
    /// # Errors
    /// No such revision; a name that is empty; the database.
    pub fn name_revision(&self, id: Uuid, number: i32, name: Option<&str>) -> Result<(), StoreError> {
        let name = name.map(named).transpose()?;
        let row = diesel::update(revisions::table.find((id, number))).set(revisions::name.eq(name));
        one(row.execute(&mut self.connection()?)?, "revision")
    }

    /// Makes the shot as it was at a revision, as a change that can be undone.
    ///
    /// # Errors
    /// No such revision; [`StoreError::Stale`]; the database.
    pub fn bring_back(&self, id: Uuid, base: i32, number: i32) -> Result<Loaded, StoreError> {
        let shot = self.revision(id, number)?;
        self.append(id, base, &format!("Bring back revision {number}"), &shot)
    }

    /// What the media store holds, and how much of it nothing names.
    ///
    /// # Errors
    /// The database.
    pub fn usage(&self) -> Result<Usage, StoreError> {
        let db = &mut *self.connection()?;
        let sizes: Vec<i64> = media::table.select(media::bytes).load(db)?;
        let unused: Vec<Hash> = diesel::sql_query(format!("{NAMED} {UNUSED}")).load(db)?;
        Ok(Usage {
            files: sizes.len() as i64,
            bytes: sizes.iter().sum(),
            unused: unused.len() as i64,
            unused_bytes: unused.iter().map(|h| h.bytes).sum(),
        })
    }

    /// Removes shots that were deleted before a time, with their history, for good.
    ///
    /// # Errors
    /// The database.
    pub fn forget_deleted(&self, before: DateTime<Utc>) -> Result<usize, StoreError> {
        (*self.connection()?).transaction(|db| {
            let gone = diesel::delete(shots::table.filter(shots::deleted_at.lt(before))).execute(db)?;
            forget_unnamed(db)?;
            Ok(gone)
        })
    }

    /// Media that nothing names and that were brought in before a time; what came since may be on its way into a shot.
    ///
    /// # Errors
    /// The database.
    pub fn unused_media(&self, before: DateTime<Utc>) -> Result<Vec<(MediaId, i64)>, StoreError> {
        let db = &mut *self.connection()?;
        let unused: Vec<Hash> = diesel::sql_query(format!("{NAMED} {UNUSED} AND added_at < $1"))
            .bind::<diesel::sql_types::Timestamptz, _>(before)
            .load(db)?;
        Ok(unused.into_iter().filter_map(|h| Some((MediaId::parse(&h.hash)?, h.bytes))).collect())
    }

    /// Forgets that a media file exists.
    ///
    /// # Errors
    /// The database.
    pub fn forget_media(&self, id: &MediaId) -> Result<(), StoreError> {
        diesel::delete(media::table.find(id.as_str())).execute(&mut self.connection()?)?;
        Ok(())
    }
}

fn one(changed: usize, what: &'static str) -> Result<(), StoreError> {
    if changed == 0 { Err(StoreError::Missing { what }) } else { Ok(()) }
}

fn named(name: &str) -> Result<String, StoreError> {
    let name = tidy(name);
    if name.is_empty() { Err(StoreError::NoName) } else { Ok(name) }
}
