//! What came through the drop folder.

use crate::error::StoreError;
use crate::schema::{delivered, deliveries};
use crate::shots::Store;
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use uuid::Uuid;

/// A file of the drop folder as it was when it was taken.
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
}

impl Store {
    /// Every file that was taken.
    ///
    /// # Errors
    /// The database.
    pub fn delivered(&self) -> Result<Vec<DeliveredFile>, StoreError> {
        Ok(delivered::table.select(DeliveredFile::as_select()).load(&mut self.connection()?)?)
    }

    /// Notes files as taken, in the state in which they were.
    ///
    /// # Errors
    /// The database.
    pub fn note_delivered(&self, files: &[DeliveredFile]) -> Result<(), StoreError> {
        let db = &mut *self.connection()?;
        db.transaction(|db| {
            for file in files {
                diesel::insert_into(delivered::table)
                    .values(file)
                    .on_conflict((delivered::folder, delivered::name))
                    .do_update()
                    .set((delivered::bytes.eq(file.bytes), delivered::modified.eq(file.modified)))
                    .execute(db)?;
            }
            Ok(())
        })
    }

    /// The shot that a folder's files make; `None` before the first.
    ///
    /// # Errors
    /// The database.
    pub fn delivery(&self, folder: &str) -> Result<Option<Uuid>, StoreError> {
        let row = deliveries::table.find(folder).select(deliveries::shot_id);
        Ok(row.first(&mut *self.connection()?).optional()?)
    }

    /// Says which shot a folder's files make.
    ///
    /// # Errors
    /// The database.
    pub fn note_delivery(&self, folder: &str, shot: Uuid) -> Result<(), StoreError> {
        diesel::insert_into(deliveries::table)
            .values((deliveries::folder.eq(folder), deliveries::shot_id.eq(shot)))
            .on_conflict(deliveries::folder)
            .do_update()
            .set(deliveries::shot_id.eq(shot))
            .execute(&mut self.connection()?)?;
        Ok(())
    }
}
