//! Motion vectors of a picture that is moved over time, and of what a moving camera sees. *Own derivation.*

use super::camera::Camera;
use super::chain::Chain;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Scale, Window};
use glam::{DAffine3, DVec2, DVec3};

/// How far each pixel goes in a frame, full-resolution px, x right and y down, on a window of px of a scale: from where it
/// is at one time to where it is at another, both told by frames from now and by the chain that takes it there. `own` is how
/// far each goes by itself in a frame before it is moved. What cannot be told stands still.
///
/// # Errors
/// Cancellation.
pub fn vectors(
    [from, to]: [(f64, &Chain); 2],
    own: Option<&Raster>,
    (window, scale): (Window, Scale),
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(window, 2);
    let (step, span) = (f64::from(scale.step()), to.0 - from.0);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            if cancel.is_cancelled() {
                return;
            }
            let [u, v] = band.rows(y);
            for (x, (u, v)) in (window.x..).zip(u.iter_mut().zip(v)) {
                let place = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5) * step;
                let way = own.map_or(DVec2::ZERO, |own| vector(own, x, y));
                let at = |(time, chain): (f64, &Chain)| chain.forward(place + way * time);
                let gone = at(from).zip(at(to)).map_or(DVec2::ZERO, |(a, b)| (b - a) / span);
                if gone.is_finite() {
                    (*u, *v) = (gone.x as f32, gone.y as f32);
                }
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
}

/// How far each pixel of what stands still in the world goes in a frame while the camera goes, full-resolution px, x right
/// and y down, on the window of `places` (camera space) at a scale: from where it is seen at one time to where it is at another,
/// both told by frames from now and by the camera as it stands then. What lies at no place is infinitely far away, and goes
/// as the camera turns. Where a camera's pose is not known, or a place is behind it, nothing goes.
///
/// # Errors
/// Places without three channels; cancellation.
pub fn of_camera(
    places: &Raster,
    now: &Camera,
    ends: [(f64, &Camera); 2],
    scale: Scale,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    places.expect_channels("position", 3)?;
    let mut out = Raster::zeros(places.window(), 2);
    let [from, to] = ends.map(|(_, camera)| Some((now.way_to(camera)?, camera)));
    let (Some(from), Some(to)) = (from, to) else { return Ok(out) };
    let span = ends[1].0 - ends[0].0;
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            let place = places.rows::<3>(y);
            let [u, v] = band.rows(y);
            for (i, (u, v)) in u.iter_mut().zip(v).enumerate() {
                let p = DVec3::from_array(place.map(|p| f64::from(p[i])));
                let at = [window.x + i as i32, y].map(|v| f64::from(scale.picked(v)) + 0.5);
                let shown = |(by, camera): &(DAffine3, &Camera)| {
                    let is_place = p.is_finite() && p.z < 0.0;
                    seen(
                        camera,
                        if is_place { by.transform_point3(p) } else { by.transform_vector3(ahead(now, at)) },
                    )
                };
                if let Some((a, b)) = shown(&from).zip(shown(&to)) {
                    let gone = (b - a) / span;
                    (*u, *v) = (gone.x as f32, gone.y as f32);
                }
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
}

/// Where a camera sees a place of its own space, px.
fn seen(camera: &Camera, p: DVec3) -> Option<DVec2> {
    let k = f64::from(camera.focal) / -p.z;
    let centre = DVec2::new(camera.centre_x.into(), camera.centre_y.into());
    (p.z < 0.0).then(|| centre + DVec2::new(p.x, -p.y) * k)
}

/// Where a camera looks at a picture point.
fn ahead(camera: &Camera, [x, y]: [f64; 2]) -> DVec3 {
    let focal = f64::from(camera.focal);
    DVec3::new((x - f64::from(camera.centre_x)) / focal, (f64::from(camera.centre_y) - y) / focal, -1.0)
}

/// A vector of a pass; what is not there or not finite stands still.
fn vector(pass: &Raster, x: i32, y: i32) -> DVec2 {
    let of = |c| pass.sample(c, x, y).map(f64::from).filter(|v| v.is_finite()).unwrap_or(0.0);
    DVec2::new(of(0), of(1))
}

#[cfg(test)]
mod tests {
    use super::super::chain::Move;
    use super::*;
    use glam::DMat3;

    const W: Window = Window::new(-3, 2, 20, 12);

    fn turned(by: f64) -> Chain {
        let about = DVec2::new(4.0, 5.0);
        let back = DMat3::from_translation(about);
        Chain::of([Move::Homography(back * DMat3::from_angle(by) * DMat3::from_translation(-about))])
    }

    #[test]
    fn what_turns_goes_across_its_radius() {
        let chains = [turned(-0.005), turned(0.005)];
        let half = Scale::halved(1).unwrap();
        for scale in [Scale::FULL, half] {
            let on = (W, scale);
            let out = vectors([(-0.5, &chains[0]), (0.5, &chains[1])], None, on, &Cancel::new()).unwrap();
            for (x, y) in (0..W.area()).map(|i| W.pixel_at(i)) {
                let place = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5) * f64::from(scale.step());
                let arm = place - DVec2::new(4.0, 5.0);
                let want = DVec2::new(-arm.y, arm.x) * 0.01;
                let got = vector(&out, x, y);
                assert!((got - want).length() < 1e-4, "{x} {y} {got} {want}");
            }
        }
    }

    #[test]
    fn what_goes_by_itself_goes_as_well() {
        let shift = |by: f64| Chain::of([Move::Homography(DMat3::from_translation(DVec2::new(by, 0.0)))]);
        let own = Raster::from_fn(W, 2, |c, x, _| if x == 0 { f32::NAN } else { [1.5, -2.0][c] });
        let (from, to) = (shift(-3.0), shift(3.0));
        let on = (W, Scale::FULL);
        let out = vectors([(-1.0, &from), (1.0, &to)], Some(&own), on, &Cancel::new()).unwrap();
        assert_eq!(vector(&out, 5, 5), DVec2::new(4.5, -2.0));
        assert_eq!(vector(&out, 0, 5), DVec2::new(3.0, 0.0));
    }

    /// A camera that stands somewhere and is turned about the vertical.
    fn stands(at: DVec3, turned: f64) -> Camera {
        let pose = (DAffine3::from_translation(at) * DAffine3::from_rotation_y(turned)).inverse();
        let (turn, to) = (pose.matrix3.to_cols_array(), pose.translation.to_array());
        let world =
            std::array::from_fn(|i| if i % 4 == 3 { to[i / 4] } else { turn[3 * (i % 4) + i / 4] } as f32);
        Camera { focal: 20.0, centre_x: 7.0, centre_y: 8.0, world: Some(world) }
    }

    #[test]
    fn what_stands_still_goes_by_the_camera() {
        // By hand: a camera that goes sideways by d sees what is Z deep go by −f·d ÷ Z; what is infinitely far stays.
        let now = stands(DVec3::new(3.0, 1.0, 40.0), 0.3);
        let side = DAffine3::from_rotation_y(0.3).transform_vector3(DVec3::X * 0.25);
        let [last, next] = [-1.0, 1.0].map(|by| stands(DVec3::new(3.0, 1.0, 40.0) + side * by, 0.3));
        let z = |x: i32| if x == 0 { f32::INFINITY } else { 2.0 + x.abs() as f32 };
        let depth = Raster::from_fn(W, 1, |_, x, _| z(x));
        let places = now.positions(&depth, Scale::FULL, &Cancel::new()).unwrap();
        let out =
            of_camera(&places, &now, [(-1.0, &last), (1.0, &next)], Scale::FULL, &Cancel::new()).unwrap();
        for (x, y) in (0..W.area()).map(|i| W.pixel_at(i)) {
            let want = DVec2::new(-20.0 * 0.25 / f64::from(z(x)), 0.0);
            assert!((vector(&out, x, y) - want).length() < 1e-4, "{x} {y}");
        }
    }

    #[test]
    fn what_is_far_goes_as_the_camera_turns() {
        // In the middle of the picture, by hand: f · tan of the turn.
        let [now, next] = [0.0, 0.02].map(|turned| stands(DVec3::ZERO, turned));
        let places = Raster::filled(Window::new(6, 7, 2, 2), 3, f32::NAN);
        let out = of_camera(&places, &now, [(0.0, &now), (1.0, &next)], Scale::FULL, &Cancel::new()).unwrap();
        let mean = out.plane(0).iter().sum::<f32>() / 4.0;
        assert!((f64::from(mean) - 20.0 * 0.02f64.tan()).abs() < 1e-3, "{mean}");
        let lost = Camera { world: None, ..next };
        let out = of_camera(&places, &now, [(0.0, &now), (1.0, &lost)], Scale::FULL, &Cancel::new()).unwrap();
        assert!(out.data().iter().all(|v| *v == 0.0));
    }
}
