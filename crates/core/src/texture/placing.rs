//! Where a texture lies in UV.

use super::pyramid::Pyramid;
use glam::{Mat2, Vec2};

/// Where a texture lies in UV.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Placing {
    middle: Vec2,
    /// From UV about the middle to texture space, whose y runs down.
    matrix: Mat2,
}

impl Placing {
    /// A texture whose middle lies at a UV, with its sides in UV (a negative one turns it over), turned anticlockwise by
    /// radians; `aspect`, the width ÷ height that it is seen with, is what a turn keeps square.
    pub fn new(middle: Vec2, size: Vec2, turn: f32, aspect: f32) -> Self {
        let side = |v: f32| if v.abs() < 1e-6 { 1e-6f32.copysign(v) } else { v };
        let shape = Mat2::from_diagonal(Vec2::new(aspect, 1.0));
        let turned = shape.inverse() * Mat2::from_angle(-turn) * shape;
        let sized = Mat2::from_diagonal(Vec2::new(1.0 / side(size.x), 1.0 / side(size.y)));
        Self { middle, matrix: Mat2::from_diagonal(Vec2::new(1.0, -1.0)) * turned * sized }
    }

    /// The texture (RGBA, premultiplied) over what a pixel at a UV, with its slope, sees of it.
    #[inline]
    pub fn read(&self, texture: &Pyramid<'_>, uv: Vec2, slope: Mat2) -> [f32; 4] {
        texture.mean(self.of_uv(uv), self.matrix * slope)
    }

    /// What a px changes of a place of texture space, from what it changes of the UV.
    pub fn slope(&self, of_uv: Mat2) -> Mat2 {
        self.matrix * of_uv
    }

    /// The place of texture space at a UV.
    pub fn of_uv(&self, uv: Vec2) -> Vec2 {
        self.matrix * (uv - self.middle) + 0.5
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn to_uv(p: &Placing, at: Vec2) -> Vec2 {
        p.matrix.inverse() * (at - 0.5) + p.middle
    }

    #[test]
    fn a_place_goes_to_texture_space_and_back() {
        let p = Placing::new(Vec2::new(0.3, 0.6), Vec2::new(0.5, -0.2), 0.7, 1.6);
        for uv in [Vec2::new(0.1, 0.9), Vec2::new(0.3, 0.6), Vec2::new(0.44, 0.2)] {
            assert!((to_uv(&p, p.of_uv(uv)) - uv).length() < 1e-5);
        }
        let usual = |turn| Placing::new(Vec2::splat(0.5), Vec2::ONE, turn, 1.0);
        // The texture's upper left corner lies at u = 0, v = 1.
        assert!(usual(0.0).of_uv(Vec2::new(0.0, 1.0)).length() < 1e-6);
        // A quarter turn anticlockwise puts its right side on top.
        let turned = usual(std::f32::consts::FRAC_PI_2);
        assert!((to_uv(&turned, Vec2::new(1.0, 0.5)) - Vec2::new(0.5, 1.0)).length() < 1e-6);
    }
}
