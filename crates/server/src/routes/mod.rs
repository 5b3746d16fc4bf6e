//! Routes by noun.

mod handoff;
mod jobs;
mod light;
pub(crate) mod media;
mod moves;
mod news;
mod order;
mod pages;
mod pictures;
mod presets;
mod shared;
pub(crate) mod shots;
mod tracks;

use rocket::{Route, routes};

/// Every route.
pub fn all() -> Vec<Route> {
    routes![
        pages::refused,
        pages::kinds,
        pages::extracts,
        pages::made,
        pages::mattes,
        pages::conventions,
        pages::page,
        pages::asset,
        shots::list,
        shots::bring_in,
        shots::from_files,
        shots::add_files,
        shots::take_remedies,
        shots::move_passes,
        shots::findings,
        shots::passes,
        news::news,
        news::delivery,
        news::memory,
        media::bring,
        media::bring_lut,
        media::bring_font,
        media::bring_drawing,
        media::cameras,
        shots::load,
        shots::edit,
        shots::undo,
        shots::redo,
        shots::history,
        order::arrange,
        order::copy,
        order::name,
        order::bring_back,
        order::usage,
        shots::sentences,
        shots::at_frame,
        shots::course,
        pictures::saved,
        pictures::preview,
        pictures::names,
        pictures::over_time,
        pictures::leave,
        pictures::figures,
        pictures::probe,
        pictures::histogram,
        pictures::place,
        light::found,
        light::ball,
        light::finishes,
        light::shape,
        moves::told,
        moves::laid,
        moves::laid_at,
        moves::flat,
        moves::checker,
        tracks::tracks,
        tracks::start,
        tracks::stop,
        presets::list,
        presets::save,
        presets::bring,
        presets::shown,
        presets::document,
        presets::rename,
        presets::remove,
        presets::apply,
        handoff::picture,
        handoff::document,
        handoff::pair,
        handoff::sheet,
        handoff::proof,
        jobs::start,
        jobs::outbox,
        jobs::list,
        jobs::news,
        jobs::change,
        jobs::remove,
        jobs::frames,
        jobs::file,
        jobs::picture,
        jobs::together,
    ]
}
