//! Ranges of frames that are written.

use chrono::{DateTime, Utc};
use jugata_shot::document::FrameRange;
use jugata_shot::handoff::Wish;
use jugata_store::{JobFrame, JobRow, JobState};
use serde::{Deserialize, Serialize};
use ts_rs::TS;
use uuid::Uuid;

/// Asks for a range of frames.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskJob {
    /// What is written of each.
    pub wish: Wish,
    /// The frames.
    pub range: FrameRange,
}

/// The folder for hand-off.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Outbox {
    /// Its path; none if the server has none.
    pub folder: Option<String>,
    /// What keeps frames from being put there, a sentence.
    pub trouble: Option<String>,
}

/// Where a job stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Stands {
    /// Its frames are taken.
    Running,
    /// No frame is taken; those that are begun are finished.
    Paused,
    /// No frame is taken, and those that were begun are left.
    Stopped,
    /// Every frame is written, or has failed.
    Done,
}

impl From<JobState> for Stands {
    fn from(state: JobState) -> Self {
        match state {
            JobState::Running => Self::Running,
            JobState::Paused => Self::Paused,
            JobState::Stopped => Self::Stopped,
            JobState::Done => Self::Done,
        }
    }
}

/// What shall become of a job.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ChangeJob {
    /// Take no more frames.
    Pause,
    /// Leave what is begun, too.
    Stop,
    /// Go on.
    GoOn,
    /// Try the frames again that have failed, or whose files are gone.
    TryAgain,
    /// Put it before all others.
    First,
}

/// A job and how far it has come.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Job {
    /// Number.
    pub id: Uuid,
    /// Revision of its shot.
    pub revision: i32,
    /// What is written.
    pub wish: Wish,
    /// The frames.
    pub range: FrameRange,
    /// Where it stands.
    pub state: Stands,
    /// When it was asked for.
    #[ts(type = "string")]
    pub made_at: DateTime<Utc>,
    /// Frames that are written.
    #[ts(type = "number")]
    pub done: i64,
    /// Frames that have failed.
    #[ts(type = "number")]
    pub failed: i64,
    /// Frames that are being worked on.
    #[ts(type = "number")]
    pub taken: i64,
    /// Seconds until all are written, if the others take as long as those before.
    pub left: Option<f32>,
    /// Bytes of what is written.
    #[ts(type = "number")]
    pub bytes: i64,
    /// Frames that lie in the folder that is named.
    #[ts(type = "number")]
    pub put: i64,
}

impl From<JobRow> for Job {
    fn from(row: JobRow) -> Self {
        let frames = i64::from(row.range.last) - i64::from(row.range.first) + 1;
        let open = frames - row.done - row.failed;
        let left = row.mean.map(|mean| open as f32 * mean.as_secs_f32() / row.taken.max(1) as f32);
        Self {
            id: row.id,
            revision: row.revision,
            wish: row.wish,
            range: row.range,
            state: row.state.into(),
            made_at: row.made_at,
            done: row.done,
            failed: row.failed,
            taken: row.taken,
            left: left.filter(|_| open > 0),
            bytes: row.bytes,
            put: row.put,
        }
    }
}

/// A frame of a job that is written or has failed.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct FrameOfJob {
    /// Its number.
    pub frame: i32,
    /// Whether its file is there.
    pub written: bool,
    /// Why it failed, or what went wrong with the last try, in a sentence.
    pub error: Option<String>,
}

impl From<JobFrame> for FrameOfJob {
    fn from(f: JobFrame) -> Self {
        Self { frame: f.frame, written: f.written, error: f.error }
    }
}
