//! What an element offers for a role: a stored pass, an extracted one, or what is derived from these.

use super::keeper::Engine;
use super::key::{self, ContentHash, Hashes};
use super::planes::{note, on_window};
use super::reader::{Area, Reader};
use super::request::{Event, Request};
use super::wants;
use crate::document::{Element, Extract, Provider, Shot};
use crate::error::ShotError;
use crate::inputs::{Found, Inputs, Keep, MakeKept};
use crate::limit::united;
use crate::made::{self, MadeKind};
use crate::wants::Want;
use jugata_core::geometry::chain::Chain;
use jugata_core::passes::moved::moved;
use jugata_core::{Raster, Role, Window};
use std::sync::{Arc, LazyLock};

/// The moves of what was not moved.
static UNMOVED: LazyLock<Chain> = LazyLock::new(Chain::default);

/// A shot at a frame, and the engine that evaluates it.
#[derive(Clone, Copy)]
pub(crate) struct Scene<'a> {
    pub engine: &'a Engine,
    pub shot: &'a Shot,
    pub hashes: &'a Hashes<'a>,
}

impl<'a> Scene<'a> {
    /// The scene of a shot at a frame.
    pub fn new(engine: &'a Engine, hashes: &'a Hashes<'a>) -> Self {
        Self { engine, shot: hashes.shot, hashes }
    }

    /// A whole pass in canonical form at the request's scale.
    pub fn pass(
        self,
        element: &Element,
        pass: Provider<'_>,
        request: &Request,
    ) -> Result<Arc<Raster>, ShotError> {
        match pass {
            Provider::Stored(p) => {
                self.engine.pass(element, p, request.scale, request.display, Some(request))
            }
            Provider::Extracted(e, place) => self.extracted(element, e, place, request),
            Provider::Drawn(made, role) => self.drawn(element, made, role, request),
        }
    }

    /// What is read for a role, on the request's window; `None` if there is nothing.
    pub fn read(
        self,
        reader: Reader<'_>,
        role: Role,
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        let moves = self.moves_before(reader.element, reader.after, request.scale)?;
        if !moves.is_identity() {
            return self.read_moved(Reader { after: 0, ..reader }, role, (reader.after, &moves), request);
        }
        match self.whole(reader, role, request)? {
            Some(whole) => Ok(Some(on_window(whole, role, request))),
            None if role == Role::Position => self.positions(reader, request),
            None => Ok(None),
        }
    }

    /// A pass by number, whole; where the picture was moved before, as it follows, on the request's window.
    pub fn numbered(
        self,
        reader: Reader<'_>,
        pass: Provider<'_>,
        request: &Request,
    ) -> Result<Arc<Raster>, ShotError> {
        let whole = self.pass(reader.element, pass, request)?;
        let moves = self.moves_before(reader.element, reader.after, request.scale)?;
        if moves.is_identity() {
            return Ok(whole);
        }
        Ok(Arc::new(moved(&whole, pass.role(), &moves, request.window, &request.cancel)?))
    }

    /// What is read for a role in the render's own geometry, following the moves of the first steps.
    fn read_moved(
        self,
        reader: Reader<'_>,
        role: Role,
        (after, moves): (usize, &Chain),
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        let Some(whole) = self.read_whole(reader, role, request)? else { return Ok(None) };
        let content = key::of_role(self.hashes, reader, role);
        let (Some(content), Some(by)) = (content, key::of_moves(self.hashes, reader.element, after)) else {
            return Ok(Some(Arc::new(moved(&whole, role, moves, request.window, &request.cancel)?)));
        };
        let content = content.and(by).at(request.window, request.scale);
        let (raster, _) =
            self.engine.keep(content, || Ok(moved(&whole, role, moves, request.window, &request.cancel)?))?;
        Ok(Some(raster))
    }

    /// What a made element draws for a role, in its own frame.
    fn drawn(
        self,
        element: &Element,
        made: &MadeKind,
        role: Role,
        request: &Request,
    ) -> Result<Arc<Raster>, ShotError> {
        let frame = request.scale.window(self.frame_of(element)?);
        let content = key::of_drawn(self.hashes, element, made, role).at(frame, request.scale);
        let (raster, _) = self.engine.keep(content, || {
            request.cancel.check()?;
            let (reader, kind) = (Reader::of(element, &[]), made.kind());
            let title = kind.about().title;
            let found = wants::found(self, reader, title, kind.wants(), request, Area::Whole)?;
            let keep = |_: &str, make: MakeKept<'_>| Ok(Arc::new(make()?));
            made::drawn(kind, role, &self.inputs(element, title, &found, frame, request, &keep)?)
        })?;
        Ok(raster)
    }

    /// What is read for a role, all of it.
    pub fn read_whole(
        self,
        reader: Reader<'_>,
        role: Role,
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        match self.whole(reader, role, request)? {
            None if role == Role::Position => self.positions_of_all(reader, request),
            found => Ok(found),
        }
    }

    /// The pass that is read for a role, or what is taken from one, whole.
    fn whole(
        self,
        reader: Reader<'_>,
        role: Role,
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        let element = reader.element;
        if let Some(pass) = reader.provider(role) {
            return self.pass(element, pass, request).map(Some);
        }
        if role != Role::Alpha {
            return Ok(None);
        }
        // Coverage is the picture's own, where there is no pass of it.
        let Some(beauty) = reader.provider(Role::Beauty) else { return Ok(None) };
        let picture = self.pass(element, beauty, request)?;
        let plane = picture.plane(3).to_vec();
        Ok(Some(Arc::new(Raster::from_planar(picture.window(), 1, plane)?)))
    }

    /// Positions from depth and camera.
    fn positions(self, reader: Reader<'_>, request: &Request) -> Result<Option<Arc<Raster>>, ShotError> {
        let (Some(camera), Some(depth)) = (reader.element.camera, reader.provider(Role::Depth)) else {
            return Ok(None);
        };
        let content = key::of_positions(self.hashes, reader, depth);
        let (positions, _) = self.engine.keep(content.at(request.window, request.scale), || {
            let depth = on_window(self.pass(reader.element, depth, request)?, Role::Depth, request);
            Ok(camera.positions(&depth, request.scale, &request.cancel)?)
        })?;
        Ok(Some(positions))
    }

    /// An extracted pass, whole.
    fn extracted(
        self,
        element: &Element,
        extract: &Extract,
        place: usize,
        request: &Request,
    ) -> Result<Arc<Raster>, ShotError> {
        let content: ContentHash = key::of_extract(self.hashes, element, extract, place);
        let (raster, reused) = self.engine.keep(content.at(request.display, request.scale), || {
            request.cancel.check()?;
            self.make(element, extract, place, request)
        })?;
        if !reused {
            note(Some(request), Event::Made { pass: extract.id });
        }
        Ok(raster)
    }

    fn make(
        self,
        element: &Element,
        extract: &Extract,
        place: usize,
        request: &Request,
    ) -> Result<Raster, ShotError> {
        let reader = Reader { element, chosen: &extract.reads, seen: place, after: 0 };
        let kind = extract.does.kind();
        let mut found = wants::found(self, reader, kind.about().title, kind.wants(), request, Area::Whole)?;
        let mut window = request.scale.window(request.display);
        for (want, found) in &found {
            if let (Some(_), Some(raster)) = (want.role(), found.raster()) {
                window = united(window, raster.window());
            }
        }
        for (want, found) in &mut found {
            if let Found::Raster(raster) | Found::Mean(raster) = found
                && raster.window() != window
            {
                *raster = Arc::new(raster.cropped(window, wants::role_of(reader, want).outside()));
            }
        }
        let keep = |key: &str, make: MakeKept<'_>| {
            let content = key::of_kept(self.hashes, reader, kind, key).at(window, request.scale);
            Ok(self.engine.keep(content, make)?.0)
        };
        kind.make(&self.inputs(element, kind.about().title, &found, window, request, &keep)?)
    }

    /// What a kind works on that makes something by itself. A step has more: the picture before it, and its moves.
    pub fn inputs<'i>(
        self,
        element: &Element,
        title: &'static str,
        found: &'i [(Want, Found)],
        window: Window,
        request: &'i Request,
        keep: Keep<'i>,
    ) -> Result<Inputs<'i>, ShotError> {
        Ok(Inputs {
            title,
            found,
            window,
            scale: request.scale,
            camera: self.engine.camera(element, self.shot.display)?,
            camera_at_first: element.camera,
            frame: self.shot.display,
            own: None,
            limit: None,
            before: None,
            moved: &UNMOVED,
            keep,
            cancel: &request.cancel,
        })
    }

    /// Positions over all of the depth that they are made from.
    fn positions_of_all(
        self,
        reader: Reader<'_>,
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        let Some(depth) = reader.provider(Role::Depth) else { return Ok(None) };
        let window = self.pass(reader.element, depth, request)?.window();
        self.positions(reader, &Request { window, ..request.clone() })
    }
}
