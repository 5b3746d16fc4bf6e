//! Shots and their revisions.

use crate::error::StoreError;
use crate::schema::{revisions, shots};
use crate::sequences::{FRAME, Known, fold, unfold};
use chrono::{DateTime, Utc};
use diesel::connection::SimpleConnection;
use diesel::dsl::{exists, max, select};
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool, PooledConnection};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use jugata_shot::document::{Element, Limit, MattePart};
use jugata_shot::edits::EditAt;
use jugata_shot::parts::{BrushPart, PartKind};
use jugata_shot::{Shot, check, delivery, edits};
use moka::sync::Cache;
use serde_json::Value;
use std::sync::Arc;
use std::time::Duration;
use uuid::Uuid;

/// Number of the lock under which tables are brought up to date; any that nobody else uses in this database.
const MIGRATING: i64 = 0x6a75_6761_7461;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!("migrations");

/// Connections kept open. Rocket's blocking pool is larger, but queries are short and a local server of
/// default settings has a hundred connections for everybody.
const CONNECTIONS: u32 = 8;

/// A shot in the list.
#[derive(Clone, Debug, Queryable, Selectable)]
#[diesel(table_name = shots)]
pub struct ShotRow {
    /// Number.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Revision at which it stands.
    pub head: i32,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it last changed.
    pub changed_at: DateTime<Utc>,
    /// Whether it is out of the way.
    pub put_away: bool,
    /// When it was deleted, if it was.
    pub deleted_at: Option<DateTime<Utc>>,
}

/// A revision in the history.
#[derive(Clone, Debug, Queryable, Selectable)]
#[diesel(table_name = revisions)]
pub struct RevisionRow {
    /// Number in the shot, from 1.
    pub number: i32,
    /// Revision it was made on.
    pub parent: Option<i32>,
    /// What was done, in words.
    pub label: String,
    /// When.
    pub made_at: DateTime<Utc>,
    /// Whether it brought files only.
    pub delivered: bool,
    /// The name that somebody gave it.
    pub name: Option<String>,
}

#[derive(Insertable)]
#[diesel(table_name = revisions)]
struct NewRevision<'a> {
    shot_id: Uuid,
    number: i32,
    parent: Option<i32>,
    label: &'a str,
    document: Value,
    delivered: bool,
}

/// A shot as it stands.
#[derive(Clone, Debug)]
pub struct Loaded {
    /// Revision.
    pub revision: i32,
    /// The document.
    pub shot: Shot,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring again.
    pub redo: Option<String>,
}

/// The database. Calls block; a server runs them on blocking threads.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<PgConnection>>,
    /// Revisions that were read lately: they never change, and every tile of a picture asks for one.
    parsed: Cache<(Uuid, i32), Arc<Shot>>,
    /// Frames that were read lately: most revisions of a shot have the same.
    frames: Known,
}

/// Bytes of text whose documents are kept parsed.
const PARSED: u64 = 64 << 20;

/// How long the server works on one statement, waits for a lock, and leaves a transaction open that nobody goes on with.
const PATIENCE: &str = "SET statement_timeout = '15s'; SET lock_timeout = '10s'; SET idle_in_transaction_session_timeout = '30s'";

#[derive(Debug)]
struct Patient;

impl CustomizeConnection<PgConnection, diesel::r2d2::Error> for Patient {
    fn on_acquire(&self, db: &mut PgConnection) -> Result<(), diesel::r2d2::Error> {
        db.batch_execute(PATIENCE).map_err(diesel::r2d2::Error::QueryError)
    }
}

type Pooled = PooledConnection<ConnectionManager<PgConnection>>;

impl Store {
    /// Connects and brings the tables up to date.
    ///
    /// # Errors
    /// No server at that address, or a migration that fails.
    pub fn connect(url: &str) -> Result<Self, StoreError> {
        let pool = Pool::builder()
            .max_size(CONNECTIONS)
            .min_idle(Some(1))
            .connection_timeout(Duration::from_secs(5))
            .connection_customizer(Box::new(Patient))
            .build(ConnectionManager::new(crate::address::without_gss(url)))
            .map_err(|e| StoreError::Connection(e.to_string()))?;
        let weigh = |_: &(Uuid, i32), shot: &Arc<Shot>| weight(shot);
        let parsed = Cache::builder().max_capacity(PARSED).weigher(weigh).build();
        let store = Self { pool, parsed, frames: Known::new() };
        store.migrate()?;
        Ok(store)
    }

    /// Brings the tables up to date. Of several that start at once, one does it and the others wait.
    fn migrate(&self) -> Result<(), StoreError> {
        let mut db = self.connection()?;
        let failed = |e: String| StoreError::Migration(e);
        db.batch_execute(&format!("SELECT pg_advisory_lock({MIGRATING})"))
            .map_err(|e| failed(e.to_string()))?;
        let done = db.run_pending_migrations(MIGRATIONS).map(|_| ()).map_err(|e| failed(e.to_string()));
        db.batch_execute(&format!("SELECT pg_advisory_unlock({MIGRATING})"))
            .map_err(|e| failed(e.to_string()))?;
        done
    }

    pub(crate) fn connection(&self) -> Result<Pooled, StoreError> {
        self.pool.get().map_err(|e| StoreError::Connection(e.to_string()))
    }

    /// All shots, the one changed last first.
    ///
    /// # Errors
    /// The database.
    pub fn list(&self) -> Result<Vec<ShotRow>, StoreError> {
        let rows = shots::table
            .order((shots::changed_at.desc(), shots::id))
            .select(ShotRow::as_select())
            .load(&mut self.connection()?)?;
        Ok(rows)
    }

    /// A new shot with its first revision.
    ///
    /// # Errors
    /// An unsound document; the database.
    pub fn create(&self, shot: &Shot, label: &str) -> Result<Uuid, StoreError> {
        check::check(shot)?;
        (*self.connection()?).transaction(|db| create(db, shot, label))
    }

    /// A shot as it stands.
    ///
    /// # Errors
    /// No such shot; a document of another version; the database.
    pub fn load(&self, id: Uuid) -> Result<Loaded, StoreError> {
        let mut db = self.connection()?;
        let head = head_of(&mut db, id, false)?;
        loaded(&mut db, &self.frames, id, head)
    }

    /// The document of any revision.
    ///
    /// # Errors
    /// No such revision; the database.
    pub fn revision(&self, id: Uuid, number: i32) -> Result<Arc<Shot>, StoreError> {
        if let Some(shot) = self.parsed.get(&(id, number)) {
            return Ok(shot);
        }
        let shot = Arc::new(revision_of(&mut *self.connection()?, &self.frames, id, number)?);
        self.parsed.insert((id, number), shot.clone());
        Ok(shot)
    }

    /// A revision that was read lately, without asking the database.
    pub fn known_revision(&self, id: Uuid, number: i32) -> Option<Arc<Shot>> {
        self.parsed.get(&(id, number))
    }

    /// All revisions, newest first.
    ///
    /// # Errors
    /// The database.
    pub fn history(&self, id: Uuid) -> Result<Vec<RevisionRow>, StoreError> {
        let rows = revisions::table
            .filter(revisions::shot_id.eq(id))
            .order(revisions::number.desc())
            .select(RevisionRow::as_select())
            .load(&mut self.connection()?)?;
        Ok(rows)
    }

    /// Appends a revision made on `base`. Where nothing but deliveries came since, they are carried over.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if somebody changed the shot by now; an unsound document; the database.
    pub fn append(&self, id: Uuid, base: i32, label: &str, shot: &Shot) -> Result<Loaded, StoreError> {
        check::check(shot)?;
        self.move_head(id, |db, head| {
            let mut shot = shot.clone();
            if head != base {
                only_deliveries(db, id, head, base)?;
                let (before, after) =
                    (revision_of(db, &self.frames, id, base)?, revision_of(db, &self.frames, id, head)?);
                delivery::carry(&before, &after, &mut shot);
                check::check(&shot)?;
            }
            insert(db, id, head, (label, false), &shot)
        })
    }

    /// Appends a revision with edits that were made on `base`. What others changed since is kept, unless it is the same
    /// thing; files that were delivered are carried over.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if somebody changed the same by now; an unsound document; the database.
    pub fn edit(&self, id: Uuid, base: i32, label: &str, edits: &[EditAt]) -> Result<Loaded, StoreError> {
        self.move_head(id, |db, head| {
            let before = revision_of(db, &self.frames, id, base)?;
            if head == base {
                return insert(db, id, head, (label, false), &edits::edited(&before, edits)?);
            }
            let now = revision_of(db, &self.frames, id, head)?;
            if only_deliveries(db, id, head, base).is_ok() {
                let mut shot = edits::edited(&before, edits)?;
                delivery::carry(&before, &now, &mut shot);
                check::check(&shot)?;
                return insert(db, id, head, (label, false), &shot);
            }
            let stale = StoreError::Stale { head, base };
            if edits::meet(edits, &edits::between(&before, &now)?) {
                return Err(stale);
            }
            // Sound by itself, it may not fit what others did: a matte that is gone, one thing too many.
            edits::edited(&before, edits)?;
            let both = edits::edited(&now, edits).map_err(|_| stale)?;
            insert(db, id, head, (label, false), &both)
        })
    }

    /// Takes back the latest change that somebody made. Files that were delivered since stay.
    ///
    /// # Errors
    /// [`StoreError::AtEnd`] before the first change; [`StoreError::Stale`]; the database.
    pub fn undo(&self, id: Uuid, base: i32) -> Result<Loaded, StoreError> {
        self.on_head(id, base, |db| {
            let change = line_of(db, id, base)?.pop().ok_or(StoreError::Missing { what: "revision" })?;
            let to = change.parent.ok_or(StoreError::AtEnd { verb: "undo" })?;
            stand_at(db, &self.frames, id, (change.number, base), to)
        })
    }

    /// Makes the latest change again that was taken back. Files that were delivered since stay.
    ///
    /// # Errors
    /// [`StoreError::AtEnd`] if there is none; [`StoreError::Stale`]; the database.
    pub fn redo(&self, id: Uuid, base: i32) -> Result<Loaded, StoreError> {
        self.on_head(id, base, |db| {
            let line = line_of(db, id, base)?;
            let (to, _) = change_on(db, id, &line)?.ok_or(StoreError::AtEnd { verb: "redo" })?;
            // What the change was made on has some of the files already.
            let made_on = parent_of(db, id, to)?.unwrap_or(base);
            stand_at(db, &self.frames, id, (made_on, base), to)
        })
    }

    /// Runs `step` while the shot is locked at `base`, then moves the head to the revision it returns.
    pub(crate) fn on_head(
        &self,
        id: Uuid,
        base: i32,
        step: impl FnOnce(&mut PgConnection) -> Result<i32, StoreError>,
    ) -> Result<Loaded, StoreError> {
        self.move_head(id, |db, head| {
            if head != base {
                return Err(StoreError::Stale { head, base });
            }
            step(db)
        })
    }

    /// Runs `step` while the shot is locked, then moves the head to the revision it returns.
    fn move_head(
        &self,
        id: Uuid,
        step: impl FnOnce(&mut PgConnection, i32) -> Result<i32, StoreError>,
    ) -> Result<Loaded, StoreError> {
        (*self.connection()?).transaction(|db| {
            let head = head_of(db, id, true)?;
            let head = step(db, head)?;
            let now = loaded(db, &self.frames, id, head)?;
            diesel::update(shots::table.find(id))
                .set((
                    shots::head.eq(head),
                    shots::name.eq(&now.shot.name),
                    shots::changed_at.eq(diesel::dsl::now),
                ))
                .execute(db)?;
            Ok(now)
        })
    }

    /// Whether any shot exists.
    ///
    /// # Errors
    /// The database.
    pub fn has_shots(&self) -> Result<bool, StoreError> {
        Ok(select(exists(shots::table.select(shots::id))).get_result(&mut self.connection()?)?)
    }
}

/// About how much memory a document takes: its frames and brush points outweigh all else.
fn weight(shot: &Arc<Shot>) -> u32 {
    let frames = |e: &Element| e.sequences.iter().map(|s| s.frames.len()).sum::<usize>();
    let parts = |l: &Limit| l.parts.iter().map(points).sum::<usize>();
    let of = |e: &Element| {
        let limits =
            e.steps.iter().filter_map(|s| s.only_where.as_ref()).chain(e.mattes.iter().map(|m| &m.matte));
        frames(e) * FRAME + e.passes.len() * 512 + e.steps.len() * 512 + limits.map(parts).sum::<usize>() * 8
    };
    u32::try_from(1024 + shot.elements.iter().map(of).sum::<usize>()).unwrap_or(u32::MAX)
}

fn points(part: &MattePart) -> usize {
    match &part.by {
        PartKind::BrushPart(BrushPart { strokes }) => strokes.iter().map(|s| s.points.len()).sum(),
        _ => 32,
    }
}

fn missing(what: &'static str) -> impl FnOnce(diesel::result::Error) -> StoreError {
    move |e| match e {
        diesel::result::Error::NotFound => StoreError::Missing { what },
        e => e.into(),
    }
}

/// Revision at which a shot stands; locked against other writers until the transaction ends, if asked.
fn head_of(db: &mut PgConnection, id: Uuid, lock: bool) -> Result<i32, StoreError> {
    let row = shots::table.find(id).select(shots::head);
    if lock { row.for_update().first(db) } else { row.first(db) }.map_err(missing("shot"))
}

/// A new shot with its first revision.
pub(crate) fn create(db: &mut PgConnection, shot: &Shot, label: &str) -> Result<Uuid, StoreError> {
    let id = Uuid::new_v4();
    diesel::insert_into(shots::table)
        .values((shots::id.eq(id), shots::name.eq(&shot.name), shots::head.eq(1)))
        .execute(db)?;
    let document = fold(db, shot)?;
    let first = NewRevision { shot_id: id, number: 1, parent: None, label, document, delivered: false };
    diesel::insert_into(revisions::table).values(first).execute(db)?;
    Ok(id)
}

/// Adds a revision behind `parent`; its number.
pub(crate) fn insert(
    db: &mut PgConnection,
    id: Uuid,
    parent: i32,
    (label, delivered): (&str, bool),
    shot: &Shot,
) -> Result<i32, StoreError> {
    let document = fold(db, shot)?;
    let newest: Option<i32> =
        revisions::table.filter(revisions::shot_id.eq(id)).select(max(revisions::number)).first(db)?;
    let number = newest.unwrap_or(0) + 1;
    let next = NewRevision { shot_id: id, number, parent: Some(parent), label, document, delivered };
    diesel::insert_into(revisions::table).values(next).execute(db)?;
    Ok(number)
}

/// Whether the way from `head` back to `base` holds nothing but deliveries.
fn only_deliveries(db: &mut PgConnection, id: Uuid, head: i32, base: i32) -> Result<(), StoreError> {
    let mut at = head;
    while at != base {
        let (delivered, parent): (bool, Option<i32>) = revisions::table
            .find((id, at))
            .select((revisions::delivered, revisions::parent))
            .first(db)
            .map_err(missing("revision"))?;
        match parent.filter(|_| delivered) {
            Some(parent) => at = parent,
            None => return Err(StoreError::Stale { head, base }),
        }
    }
    Ok(())
}

fn revision_of(db: &mut PgConnection, known: &Known, id: Uuid, number: i32) -> Result<Shot, StoreError> {
    let document: Value = revisions::table
        .find((id, number))
        .select(revisions::document)
        .first(db)
        .map_err(missing("revision"))?;
    unfold(db, known, document)
}

/// A revision without its document.
struct Step {
    number: i32,
    parent: Option<i32>,
    label: String,
    delivered: bool,
}

fn step(db: &mut PgConnection, id: Uuid, number: i32) -> Result<Step, StoreError> {
    let (parent, label, delivered) = revisions::table
        .find((id, number))
        .select((revisions::parent, revisions::label, revisions::delivered))
        .first(db)
        .map_err(missing("revision"))?;
    Ok(Step { number, parent, label, delivered })
}

fn parent_of(db: &mut PgConnection, id: Uuid, number: i32) -> Result<Option<i32>, StoreError> {
    Ok(step(db, id, number)?.parent)
}

/// The revisions from `head` back to the latest change that somebody made, which is the last; those before it brought
/// files.
fn line_of(db: &mut PgConnection, id: Uuid, head: i32) -> Result<Vec<Step>, StoreError> {
    let mut line = vec![step(db, id, head)?];
    while let Some(parent) = line.last().filter(|s| s.delivered).and_then(|s| s.parent) {
        line.push(step(db, id, parent)?);
    }
    Ok(line)
}

/// Number and label of the latest change that was made on any revision of a line.
fn change_on(db: &mut PgConnection, id: Uuid, line: &[Step]) -> Result<Option<(i32, String)>, StoreError> {
    let numbers: Vec<i32> = line.iter().map(|s| s.number).collect();
    Ok(revisions::table
        .filter(revisions::shot_id.eq(id).and(revisions::parent.eq_any(numbers)))
        .filter(revisions::delivered.eq(false))
        .order(revisions::number.desc())
        .select((revisions::number, revisions::label))
        .first(db)
        .optional()?)
}

/// The revision `to`, or one on it that has the files too that came between two others.
fn stand_at(
    db: &mut PgConnection,
    known: &Known,
    id: Uuid,
    (before, after): (i32, i32),
    to: i32,
) -> Result<i32, StoreError> {
    if before == after {
        return Ok(to);
    }
    let [before, after, there] = [before, after, to].map(|number| revision_of(db, known, id, number));
    let (before, after, there) = (before?, after?, there?);
    let mut with_files = there.clone();
    delivery::carry(&before, &after, &mut with_files);
    if with_files == there {
        return Ok(to);
    }
    check::check(&with_files)?;
    insert(db, id, to, ("Keep the files that arrived", true), &with_files)
}

fn loaded(db: &mut PgConnection, known: &Known, id: Uuid, head: i32) -> Result<Loaded, StoreError> {
    let shot = revision_of(db, known, id, head)?;
    let line = line_of(db, id, head)?;
    let redo = change_on(db, id, &line)?.map(|(_, label)| label);
    let undo = line.into_iter().last().filter(|s| s.parent.is_some()).map(|s| s.label);
    Ok(Loaded { revision: head, shot, undo, redo })
}
