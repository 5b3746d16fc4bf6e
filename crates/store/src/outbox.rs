//! Frames that are written and shall lie in a folder, too.

use crate::error::StoreError;
use crate::schema::job_frames;
use crate::shots::Store;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Integer, Jsonb, Text, Uuid as SqlUuid};
use jugata_shot::document::MediaId;
use jugata_shot::handoff::Wish;
use serde_json::Value;
use uuid::Uuid;

/// A frame that does not lie in its folder yet.
#[derive(Clone, Debug, PartialEq)]
pub struct ToPut {
    /// Its job.
    pub job: Uuid,
    /// Its number.
    pub frame: i32,
    /// The folder, below that of the server.
    pub folder: String,
    /// Its name there.
    pub name: String,
    /// Its file.
    pub media: MediaId,
}

#[derive(QueryableByName)]
struct Row {
    #[diesel(sql_type = SqlUuid)]
    job_id: Uuid,
    #[diesel(sql_type = Integer)]
    frame: i32,
    #[diesel(sql_type = Jsonb)]
    wish: Value,
    #[diesel(sql_type = Text)]
    media: String,
}

impl Store {
    /// Some frames that do not lie in their folders yet, those of the oldest job first.
    ///
    /// # Errors
    /// The database.
    pub fn to_put(&self, most: i64) -> Result<Vec<ToPut>, StoreError> {
        let rows: Vec<Row> = diesel::sql_query(
            "SELECT f.job_id, f.frame, j.wish, r.media FROM jobs j JOIN job_frames f ON f.job_id = j.id \
             JOIN rendered r ON r.content = f.content WHERE j.wish ->> 'folder' IS NOT NULL AND f.state = 'done' \
             AND NOT f.put ORDER BY j.made_at, f.frame LIMIT $1",
        )
        .bind::<BigInt, _>(most)
        .load(&mut self.connection()?)?;
        let of = |row: Row| -> Result<Option<ToPut>, StoreError> {
            let wish: Wish = serde_json::from_value(row.wish)?;
            let (Some(folder), Some(media)) = (wish.folder.clone(), MediaId::parse(&row.media)) else {
                return Ok(None);
            };
            let name = wish.file_name(row.frame)?;
            Ok(Some(ToPut { job: row.job_id, frame: row.frame, folder, name, media }))
        };
        rows.into_iter().map(of).filter_map(Result::transpose).collect()
    }

    /// Notes that a frame lies in its folder.
    ///
    /// # Errors
    /// The database.
    pub fn note_put(&self, of: &ToPut) -> Result<(), StoreError> {
        diesel::update(job_frames::table.find((of.job, of.frame)))
            .set(job_frames::put.eq(true))
            .execute(&mut self.connection()?)?;
        Ok(())
    }
}
