//! Jobs: ranges of frames that are written by whoever has time, with PostgreSQL as the queue.
//!
//! A frame is free from a certain time on. A worker takes a free one (`FOR UPDATE SKIP LOCKED`, so that many can ask at
//! once) and moves that time on while it is at work; of a worker that dies the frame becomes free by itself. Whoever
//! brings a frame first is right, since everybody gives the same bytes.

use crate::error::StoreError;
use crate::schema::{job_frames, jobs, rendered};
use crate::shots::Store;
use crate::written::written;
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Double, Integer, Nullable, Text, Uuid as SqlUuid};
use jugata_shot::document::{FrameRange, MediaId};
use jugata_shot::handoff::Wish;
use serde_json::Value;
use std::time::Duration;
use uuid::Uuid;

/// How long a frame is kept for a worker that has said nothing.
pub const LEASE: Duration = Duration::from_secs(10);

/// How often a frame is tried before it is given up: enough for workers that are killed for other reasons.
pub const TRIES: i32 = 8;

/// Jobs of a shot that are told, the newest first.
const TOLD: i64 = 50;

/// Where a job stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum JobState {
    /// Its frames are taken.
    Running,
    /// No frame is taken; those that are being worked on are finished.
    Paused,
    /// No frame is taken, and what is being worked on is left.
    Stopped,
    /// Every frame is written, or has failed.
    Done,
}

impl JobState {
    /// As it is kept.
    pub fn name(self) -> &'static str {
        match self {
            Self::Running => "running",
            Self::Paused => "paused",
            Self::Stopped => "stopped",
            Self::Done => "done",
        }
    }

    fn parse(name: &str) -> Self {
        let all = [Self::Running, Self::Paused, Self::Stopped];
        all.into_iter().find(|s| s.name() == name).unwrap_or(Self::Done)
    }
}

/// A job and how far it has come.
#[derive(Clone, Debug, PartialEq)]
pub struct JobRow {
    /// Number.
    pub id: Uuid,
    /// The shot.
    pub shot: Uuid,
    /// Its revision.
    pub revision: i32,
    /// What is written.
    pub wish: Wish,
    /// The frames.
    pub range: FrameRange,
    /// Where it stands.
    pub state: JobState,
    /// Higher ones come first.
    pub priority: i32,
    /// When it was asked for.
    pub made_at: DateTime<Utc>,
    /// Frames that are written.
    pub done: i64,
    /// Frames that have failed.
    pub failed: i64,
    /// Frames that somebody is working on.
    pub taken: i64,
    /// Mean time that a frame took, of those that were not there already.
    pub mean: Option<Duration>,
    /// Bytes of what is written.
    pub bytes: i64,
    /// Frames that lie in the folder that is named.
    pub put: i64,
}

#[derive(QueryableByName)]
struct Summary {
    #[diesel(sql_type = SqlUuid)]
    id: Uuid,
    #[diesel(sql_type = SqlUuid)]
    shot_id: Uuid,
    #[diesel(sql_type = Integer)]
    revision: i32,
    #[diesel(sql_type = diesel::sql_types::Jsonb)]
    wish: Value,
    #[diesel(sql_type = Integer)]
    first: i32,
    #[diesel(sql_type = Integer)]
    last: i32,
    #[diesel(sql_type = Text)]
    state: String,
    #[diesel(sql_type = Integer)]
    priority: i32,
    #[diesel(sql_type = diesel::sql_types::Timestamptz)]
    made_at: DateTime<Utc>,
    #[diesel(sql_type = BigInt)]
    done: i64,
    #[diesel(sql_type = BigInt)]
    failed: i64,
    #[diesel(sql_type = BigInt)]
    taken: i64,
    #[diesel(sql_type = Nullable<Double>)]
    mean_ms: Option<f64>,
    #[diesel(sql_type = BigInt)]
    bytes: i64,
    #[diesel(sql_type = BigInt)]
    put: i64,
}

impl Summary {
    fn row(self) -> Result<JobRow, StoreError> {
        Ok(JobRow {
            id: self.id,
            shot: self.shot_id,
            revision: self.revision,
            wish: serde_json::from_value(self.wish)?,
            range: FrameRange { first: self.first, last: self.last },
            state: JobState::parse(&self.state),
            priority: self.priority,
            made_at: self.made_at,
            done: self.done,
            failed: self.failed,
            taken: self.taken,
            mean: self.mean_ms.map(|ms| Duration::from_secs_f64(ms.max(0.0) / 1000.0)),
            bytes: self.bytes,
            put: self.put,
        })
    }
}

/// Jobs with how far they have come; a condition on them follows.
const SUMMARY: &str = "SELECT j.id, j.shot_id, j.revision, j.wish, j.first, j.last, j.state, j.priority, j.made_at, \
    c.done, c.failed, c.taken, c.mean_ms, c.bytes, c.put FROM jobs j CROSS JOIN LATERAL (SELECT \
    count(*) FILTER (WHERE f.state = 'done') AS done, count(*) FILTER (WHERE f.put) AS put, count(*) FILTER (WHERE f.state = 'failed') AS failed, \
    count(*) FILTER (WHERE f.state = 'open' AND f.worker IS NOT NULL AND f.free_at > now()) AS taken, \
    (avg(f.took_ms) FILTER (WHERE f.state = 'done'))::float8 AS mean_ms, \
    coalesce(sum(r.bytes), 0)::bigint AS bytes \
    FROM job_frames f LEFT JOIN rendered r ON r.content = f.content WHERE f.job_id = j.id) c";

/// The first free frame of the first running job that has one, kept for a worker.
const TAKE: &str = "UPDATE job_frames SET worker = $1, free_at = now() + make_interval(secs => $2), \
    attempts = job_frames.attempts + 1 FROM (SELECT f.job_id, f.frame, j.shot_id, j.revision, j.wish FROM \
    (SELECT id, shot_id, revision, wish FROM jobs WHERE state = 'running' ORDER BY priority DESC, made_at, id) j \
    CROSS JOIN LATERAL (SELECT job_id, frame FROM job_frames WHERE job_id = j.id AND state = 'open' AND \
    free_at <= now() ORDER BY frame LIMIT 1 FOR UPDATE SKIP LOCKED) f LIMIT 1) next \
    WHERE job_frames.job_id = next.job_id AND job_frames.frame = next.frame \
    RETURNING next.job_id, next.shot_id, next.revision, next.wish, next.frame, job_frames.attempts, \
    job_frames.error";

#[derive(QueryableByName)]
struct TakenRow {
    #[diesel(sql_type = SqlUuid)]
    job_id: Uuid,
    #[diesel(sql_type = SqlUuid)]
    shot_id: Uuid,
    #[diesel(sql_type = Integer)]
    revision: i32,
    #[diesel(sql_type = diesel::sql_types::Jsonb)]
    wish: Value,
    #[diesel(sql_type = Integer)]
    frame: i32,
    #[diesel(sql_type = Integer)]
    attempts: i32,
    #[diesel(sql_type = Nullable<Text>)]
    error: Option<String>,
}

/// A frame that a worker has taken.
#[derive(Clone, Debug)]
pub struct Taken {
    /// The job.
    pub job: Uuid,
    /// The shot.
    pub shot: Uuid,
    /// Its revision.
    pub revision: i32,
    /// What is written.
    pub wish: Wish,
    /// The frame.
    pub frame: i32,
    /// Who has it.
    pub worker: String,
}

/// A frame of a job.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct JobFrame {
    /// Its number.
    pub frame: i32,
    /// Where it stands: open, done or failed.
    pub state: String,
    /// Why it failed, or what went wrong with the last try, in a sentence.
    pub error: Option<String>,
    /// Whether its file is there.
    pub written: bool,
}

/// A frame that was written.
#[derive(Clone, Debug)]
pub struct Rendered {
    /// Hash of all that decides its bytes.
    pub content: String,
    /// The file.
    pub media: MediaId,
    /// Its size.
    pub bytes: i64,
    /// A small PNG of it.
    pub picture: Option<Vec<u8>>,
}

impl Store {
    /// Asks for a range of frames of a revision.
    ///
    /// # Errors
    /// A wish that cannot be fulfilled; no such revision; the database.
    pub fn start_job(
        &self,
        shot: Uuid,
        revision: i32,
        wish: &Wish,
        range: FrameRange,
    ) -> Result<JobRow, StoreError> {
        wish.check(range)?;
        self.revision(shot, revision)?;
        let id = Uuid::new_v4();
        (*self.connection()?).transaction(|db| {
            diesel::insert_into(jobs::table)
                .values((
                    jobs::id.eq(id),
                    jobs::shot_id.eq(shot),
                    jobs::revision.eq(revision),
                    jobs::wish.eq(written(wish)?),
                    jobs::first.eq(range.first),
                    jobs::last.eq(range.last),
                ))
                .execute(db)?;
            diesel::sql_query("INSERT INTO job_frames (job_id, frame) SELECT $1, generate_series($2, $3)")
                .bind::<SqlUuid, _>(id)
                .bind::<Integer, _>(range.first)
                .bind::<Integer, _>(range.last)
                .execute(db)?;
            Ok::<_, StoreError>(())
        })?;
        self.job(id)
    }

    /// A job.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn job(&self, id: Uuid) -> Result<JobRow, StoreError> {
        let rows: Vec<Summary> = diesel::sql_query(format!("{SUMMARY} WHERE j.id = $1"))
            .bind::<SqlUuid, _>(id)
            .load(&mut self.connection()?)?;
        rows.into_iter().next().ok_or(StoreError::Missing { what: "job" })?.row()
    }

    /// The jobs of a shot, the newest first.
    ///
    /// # Errors
    /// The database.
    pub fn jobs_of(&self, shot: Uuid) -> Result<Vec<JobRow>, StoreError> {
        let rows: Vec<Summary> = diesel::sql_query(format!(
            "{SUMMARY} WHERE j.shot_id = $1 ORDER BY j.made_at DESC, j.id LIMIT {TOLD}"
        ))
        .bind::<SqlUuid, _>(shot)
        .load(&mut self.connection()?)?;
        rows.into_iter().map(Summary::row).collect()
    }

    /// Every frame of a job.
    ///
    /// # Errors
    /// The database.
    pub fn job_frames(&self, id: Uuid) -> Result<Vec<JobFrame>, StoreError> {
        let rows: Vec<(i32, String, Option<String>, Option<String>)> = job_frames::table
            .filter(job_frames::job_id.eq(id))
            .order(job_frames::frame)
            .select((job_frames::frame, job_frames::state, job_frames::error, job_frames::content))
            .load(&mut self.connection()?)?;
        let row = |(frame, state, error, content): (_, _, _, Option<String>)| JobFrame {
            frame,
            state,
            error,
            written: content.is_some(),
        };
        Ok(rows.into_iter().map(row).collect())
    }

    /// What was written of a frame.
    ///
    /// # Errors
    /// A frame that is not written, or whose file was deleted since; the database.
    pub fn job_frame(&self, id: Uuid, frame: i32) -> Result<Rendered, StoreError> {
        let row = job_frames::table
            .find((id, frame))
            .inner_join(rendered::table.on(job_frames::content.eq(rendered::content.nullable())))
            .select((rendered::content, rendered::media, rendered::bytes, rendered::picture));
        let found: Option<(String, String, i64, Option<Vec<u8>>)> =
            row.first(&mut self.connection()?).optional()?;
        found.and_then(as_rendered).ok_or(StoreError::Missing { what: "frame" })
    }

    /// Pauses a job, stops it, or lets it go on. A job that is done stays so.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn set_job(&self, id: Uuid, state: JobState) -> Result<JobRow, StoreError> {
        (*self.connection()?).transaction(|db| {
            diesel::update(jobs::table.find(id).filter(jobs::state.ne(JobState::Done.name())))
                .set(jobs::state.eq(state.name()))
                .execute(db)?;
            end_if_done(db, id)
        })?;
        self.job(id)
    }

    /// Tries the frames again that have failed.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn try_again(&self, id: Uuid) -> Result<JobRow, StoreError> {
        (*self.connection()?).transaction(|db| {
            let failed = job_frames::job_id.eq(id).and(job_frames::state.eq("failed"));
            let lost = job_frames::job_id
                .eq(id)
                .and(job_frames::content.is_null())
                .and(job_frames::state.eq("done"));
            diesel::update(job_frames::table.filter(failed.or(lost)))
                .set((
                    job_frames::state.eq("open"),
                    job_frames::attempts.eq(0),
                    job_frames::put.eq(false),
                    job_frames::error.eq(None::<String>),
                    job_frames::worker.eq(None::<String>),
                    job_frames::free_at.eq(diesel::dsl::now),
                ))
                .execute(db)?;
            diesel::update(jobs::table.find(id))
                .set((jobs::state.eq(JobState::Running.name()), jobs::ended_at.eq(None::<DateTime<Utc>>)))
                .execute(db)?;
            end_if_done(db, id)
        })?;
        self.job(id)
    }

    /// Puts a job before all others.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn put_first(&self, id: Uuid) -> Result<JobRow, StoreError> {
        diesel::sql_query(
            "UPDATE jobs SET priority = 1 + coalesce((SELECT max(priority) FROM jobs WHERE state <> 'done' AND id <> $1), 0) \
             WHERE id = $1",
        )
        .bind::<SqlUuid, _>(id)
        .execute(&mut self.connection()?)?;
        self.job(id)
    }

    /// Forgets a job; its files stay until media are collected.
    ///
    /// # Errors
    /// None of that number; the database.
    pub fn remove_job(&self, id: Uuid) -> Result<(), StoreError> {
        match diesel::delete(jobs::table.find(id)).execute(&mut self.connection()?)? {
            0 => Err(StoreError::Missing { what: "job" }),
            _ => Ok(()),
        }
    }

    /// Takes a frame for a worker; none if nothing is to be done. A frame that was tried too often fails.
    ///
    /// # Errors
    /// The database.
    pub fn take_frame(&self, worker: &str, lease: Duration) -> Result<Option<Taken>, StoreError> {
        loop {
            let rows: Vec<TakenRow> = diesel::sql_query(TAKE)
                .bind::<Text, _>(worker)
                .bind::<Double, _>(lease.as_secs_f64())
                .load(&mut self.connection()?)?;
            let Some(row) = rows.into_iter().next() else { return Ok(None) };
            let taken = Taken {
                job: row.job_id,
                shot: row.shot_id,
                revision: row.revision,
                wish: serde_json::from_value(row.wish)?,
                frame: row.frame,
                worker: worker.to_owned(),
            };
            if row.attempts <= TRIES {
                return Ok(Some(taken));
            }
            let lost = "those who worked on it were lost".to_owned();
            let sentence =
                format!("It was tried {TRIES} times; the last time, {}", row.error.unwrap_or(lost));
            self.fail_frame(&taken, sentence.trim_end_matches('.'))?;
        }
    }

    /// Says that a worker is still at work on a frame. False if it need not go on: the job was stopped, or somebody else
    /// has the frame or has brought it.
    ///
    /// # Errors
    /// The database.
    pub fn still_at_work(&self, taken: &Taken, lease: Duration) -> Result<bool, StoreError> {
        let rows = diesel::sql_query(
            "UPDATE job_frames f SET free_at = now() + make_interval(secs => $4) FROM jobs j WHERE j.id = f.job_id \
             AND f.job_id = $1 AND f.frame = $2 AND f.worker = $3 AND f.state = 'open' AND j.state <> 'stopped'",
        )
        .bind::<SqlUuid, _>(taken.job)
        .bind::<Integer, _>(taken.frame)
        .bind::<Text, _>(&taken.worker)
        .bind::<Double, _>(lease.as_secs_f64())
        .execute(&mut self.connection()?)?;
        Ok(rows > 0)
    }

    /// What was rendered of a content, if it is still there.
    ///
    /// # Errors
    /// The database.
    pub fn rendered(&self, content: &str) -> Result<Option<Rendered>, StoreError> {
        let row = rendered::table.find(content).select(rendered::all_columns);
        let found: Option<(String, String, i64, Option<Vec<u8>>)> =
            row.first(&mut self.connection()?).optional()?;
        Ok(found.and_then(as_rendered))
    }

    /// Notes what a frame has become; it took so long, or was there already. Media that it names must be noted.
    ///
    /// # Errors
    /// The database.
    pub fn finish_frame(
        &self,
        taken: &Taken,
        made: &Rendered,
        took: Option<Duration>,
    ) -> Result<(), StoreError> {
        let took = took.map(|t| i64::try_from(t.as_millis()).unwrap_or(i64::MAX));
        (*self.connection()?).transaction(|db| {
            diesel::insert_into(rendered::table)
                .values((
                    rendered::content.eq(&made.content),
                    rendered::media.eq(made.media.as_str()),
                    rendered::bytes.eq(made.bytes),
                    rendered::picture.eq(&made.picture),
                ))
                .on_conflict(rendered::content)
                .do_update()
                .set((rendered::media.eq(made.media.as_str()), rendered::bytes.eq(made.bytes)))
                .execute(db)?;
            diesel::update(open(taken))
                .set((
                    job_frames::state.eq("done"),
                    job_frames::content.eq(&made.content),
                    job_frames::took_ms.eq(took),
                    job_frames::error.eq(None::<String>),
                ))
                .execute(db)?;
            end_if_done(db, taken.job)
        })
    }

    /// Notes why a frame cannot be made.
    ///
    /// # Errors
    /// The database.
    pub fn fail_frame(&self, taken: &Taken, sentence: &str) -> Result<(), StoreError> {
        let sentence = format!("{}.", sentence.trim_end_matches('.').replace('\0', ""));
        (*self.connection()?).transaction(|db| {
            diesel::update(open(taken))
                .set((job_frames::state.eq("failed"), job_frames::error.eq(sentence)))
                .execute(db)?;
            end_if_done(db, taken.job)
        })
    }

    /// Gives a frame back that was not made, to be taken again after a pause; `error` says why if something went wrong, and
    /// else the try does not count.
    ///
    /// # Errors
    /// The database.
    pub fn give_back(&self, taken: &Taken, pause: Duration, error: Option<&str>) -> Result<(), StoreError> {
        diesel::sql_query(
            "UPDATE job_frames SET worker = NULL, free_at = now() + make_interval(secs => $4), error = $5, \
             attempts = attempts - $6 WHERE job_id = $1 AND frame = $2 AND worker = $3 AND state = 'open'",
        )
        .bind::<SqlUuid, _>(taken.job)
        .bind::<Integer, _>(taken.frame)
        .bind::<Text, _>(&taken.worker)
        .bind::<Double, _>(pause.as_secs_f64())
        .bind::<Nullable<Text>, _>(error.map(|e| e.replace('\0', "")))
        .bind::<Integer, _>(i32::from(error.is_none()))
        .execute(&mut self.connection()?)?;
        Ok(())
    }
}

fn as_rendered((content, media, bytes, picture): (String, String, i64, Option<Vec<u8>>)) -> Option<Rendered> {
    Some(Rendered { content, media: MediaId::parse(&media)?, bytes, picture })
}

/// The row of a frame that nobody has brought yet.
#[diesel::dsl::auto_type]
fn open<'a>(taken: &'a Taken) -> _ {
    let (job, frame): (Uuid, i32) = (taken.job, taken.frame);
    job_frames::table
        .filter(job_frames::job_id.eq(job).and(job_frames::frame.eq(frame)).and(job_frames::state.eq("open")))
}

/// A job of which no frame is open is done. Those who bring its last frames at the same time go one after the other, so that
/// one of them sees that all are there.
fn end_if_done(db: &mut PgConnection, id: Uuid) -> Result<(), StoreError> {
    let job: Option<Uuid> = jobs::table.find(id).select(jobs::id).for_update().first(db).optional()?;
    if job.is_none() {
        return Ok(());
    }
    diesel::sql_query(
        "UPDATE jobs SET state = 'done', ended_at = now() WHERE id = $1 AND state <> 'done' AND NOT EXISTS \
         (SELECT 1 FROM job_frames WHERE job_id = $1 AND state = 'open')",
    )
    .bind::<SqlUuid, _>(id)
    .execute(db)?;
    Ok(())
}
