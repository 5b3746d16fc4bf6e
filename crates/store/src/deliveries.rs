//! What came through the drop folder.

use crate::error::StoreError;
use crate::schema::{delivered, deliveries};
use crate::shots::{Loaded, Store, create, insert};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types;
use jugata_shot::{Shot, check};
use uuid::Uuid;

/// A file of the drop folder as it was when it was taken or refused.
#[derive(Clone, Debug, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = delivered)]
pub struct DeliveredFile {
    /// Folder inside the drop folder; empty for the drop folder itself.
    pub folder: String,
    /// Path inside that folder.
    pub name: String,
    /// Its size.
    pub bytes: i64,
    /// When it was last written.
    pub modified: DateTime<Utc>,
    /// Why it was not taken, in a sentence.
    pub refused: Option<String>,
}

/// A revision that brought delivered files.
#[derive(Clone, Debug, PartialEq, Eq, QueryableByName)]
pub struct Arrival {
    /// The shot.
    #[diesel(sql_type = sql_types::Uuid)]
    pub shot: Uuid,
    /// Its number.
    #[diesel(sql_type = sql_types::Integer)]
    pub revision: i32,
    /// What it is called.
    #[diesel(sql_type = sql_types::Text)]
    pub label: String,
}

/// By the database's clock, whatever the servers' say. The first revision of a delivered shot is not marked as delivered: there is
/// nothing that undo should pass over.
const LATELY: &str = "SELECT shot_id AS shot, number AS revision, label FROM revisions r \
    WHERE made_at > now() - make_interval(secs => $1) AND (delivered OR \
    (number = 1 AND EXISTS (SELECT 1 FROM deliveries d WHERE d.shot_id = r.shot_id))) ORDER BY made_at, number";

/// Sentences about refused files that are told, the newest first.
const TOLD: i64 = 50;

impl Store {
    /// Every file that was taken or refused.
    ///
    /// # Errors
    /// The database.
    pub fn delivered(&self) -> Result<Vec<DeliveredFile>, StoreError> {
        Ok(delivered::table.select(DeliveredFile::as_select()).load(&mut self.connection()?)?)
    }

    /// Files that were refused lately, the newest first.
    ///
    /// # Errors
    /// The database.
    pub fn refused(&self) -> Result<Vec<DeliveredFile>, StoreError> {
        Ok(delivered::table
            .filter(delivered::refused.is_not_null())
            .order((delivered::noted_at.desc(), delivered::folder, delivered::name))
            .limit(TOLD)
            .select(DeliveredFile::as_select())
            .load(&mut self.connection()?)?)
    }

    /// Notes files as taken or refused, in the state in which they were.
    ///
    /// # Errors
    /// The database.
    pub fn note_delivered(&self, files: &[DeliveredFile]) -> Result<(), StoreError> {
        (*self.connection()?).transaction(|db| note(db, files))
    }

    /// Revisions that brought files in the last `seconds`, whichever server made them; the oldest first.
    ///
    /// # Errors
    /// The database.
    pub fn arrivals(&self, seconds: f64) -> Result<Vec<Arrival>, StoreError> {
        let lately = diesel::sql_query(LATELY).bind::<sql_types::Double, _>(seconds);
        Ok(lately.load(&mut *self.connection()?)?)
    }

    /// The shot that a folder's files make; `None` before the first.
    ///
    /// # Errors
    /// The database.
    pub fn delivery(&self, folder: &str) -> Result<Option<Uuid>, StoreError> {
        let row = deliveries::table.find(folder).select(deliveries::shot_id);
        Ok(row.first(&mut *self.connection()?).optional()?)
    }

    /// Makes the shot of a folder of its first files, and notes these as taken: all of it or nothing.
    ///
    /// # Errors
    /// An unsound document; the database.
    pub fn create_delivery(
        &self,
        folder: &str,
        label: &str,
        shot: &Shot,
        files: &[DeliveredFile],
    ) -> Result<Uuid, StoreError> {
        check::check(shot)?;
        (*self.connection()?).transaction(|db| {
            let id = create(db, shot, label)?;
            diesel::insert_into(deliveries::table)
                .values((deliveries::folder.eq(folder), deliveries::shot_id.eq(id)))
                .on_conflict(deliveries::folder)
                .do_update()
                .set(deliveries::shot_id.eq(id))
                .execute(db)?;
            note(db, files)?;
            Ok(id)
        })
    }

    /// Appends a revision that brings delivered files and changes nothing else, and notes the files as taken: all of it
    /// or nothing.
    ///
    /// # Errors
    /// As [`Store::append`].
    pub fn append_delivery(
        &self,
        id: Uuid,
        base: i32,
        label: &str,
        shot: &Shot,
        files: &[DeliveredFile],
    ) -> Result<Loaded, StoreError> {
        check::check(shot)?;
        self.on_head(id, base, |db| {
            note(db, files)?;
            insert(db, id, base, (label, true), shot)
        })
    }
}

fn note(db: &mut PgConnection, files: &[DeliveredFile]) -> Result<(), StoreError> {
    for file in files {
        diesel::insert_into(delivered::table)
            .values(file)
            .on_conflict((delivered::folder, delivered::name))
            .do_update()
            .set((
                delivered::bytes.eq(file.bytes),
                delivered::modified.eq(file.modified),
                delivered::refused.eq(&file.refused),
                delivered::noted_at.eq(diesel::dsl::now),
            ))
            .execute(db)?;
    }
    Ok(())
}
