//! Motion vectors of a picture that is moved over time. *Own derivation.*

use super::chain::Chain;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Scale, Window};
use glam::DVec2;

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

/// A vector of a pass; what is not there or not finite stands still.
fn vector(pass: &Raster, x: i32, y: i32) -> DVec2 {
    let of = |c| pass.sample(c, x, y).map(f64::from).filter(|v| v.is_finite()).unwrap_or(0.0);
    DVec2::new(of(0), of(1))
}

#[cfg(test)]
mod tests {
    use super::super::chain::Move;
    use super::*;
    use glam::{DMat3, DVec2};

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
}
