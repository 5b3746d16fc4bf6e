//! A small tree of boxes over the shapes.

use crate::shape::{Hit, Placed, Ray};
use glam::Vec3A;

/// Shapes in a leaf: a box is asked sooner than the shape within it.
const LEAF: usize = 1;

#[derive(Debug)]
enum Below {
    Shapes { first: usize, count: usize },
    Nodes { left: usize, right: usize },
}

#[derive(Debug)]
struct Node {
    low: Vec3A,
    high: Vec3A,
    below: Below,
}

/// Shapes sorted into a tree.
#[derive(Debug)]
pub struct Tree {
    shapes: Vec<Placed>,
    nodes: Vec<Node>,
}

impl Tree {
    /// Sorts the shapes, halving at the median of the widest axis.
    pub fn new(mut shapes: Vec<Placed>) -> Self {
        let mut nodes = Vec::new();
        let count = shapes.len();
        build(&mut shapes, 0, count, &mut nodes);
        Self { shapes, nodes }
    }

    /// The shapes but those of some objects, by ID.
    pub fn without(self, ids: &[u32]) -> Self {
        let mut shapes = self.shapes;
        shapes.retain(|s| !ids.contains(&s.id));
        Self::new(shapes)
    }

    /// The nearest shape met before `far`, and its surface there.
    pub fn nearest(&self, ray: &Ray, far: f32) -> Option<(Hit, &Placed)> {
        let (mut best, mut limit) = (None, far);
        self.walk(
            ray,
            |first, count, reach| {
                for shape in &self.shapes[first..first + count] {
                    if let Some(meeting) = shape.meets(ray, limit) {
                        limit = meeting.t;
                        best = Some((meeting, shape));
                        *reach = limit;
                    }
                }
                true
            },
            far,
        );
        best.map(|(meeting, shape): (_, &Placed)| (shape.hit(&meeting), shape))
    }

    /// Whether anything is hit before `far`.
    pub fn blocked(&self, ray: &Ray, far: f32) -> bool {
        let mut blocked = false;
        self.walk(
            ray,
            |first, count, _| {
                blocked = self.shapes[first..first + count].iter().any(|s| s.meets(ray, far).is_some());
                !blocked
            },
            far,
        );
        blocked
    }

    /// Visits the leaves that the ray passes, nearer boxes first; `visit(first, count, reach)` returns
    /// whether to go on.
    fn walk(&self, ray: &Ray, mut visit: impl FnMut(usize, usize, &mut f32) -> bool, far: f32) {
        let (origin, inverse) = (Vec3A::from(ray.origin), Vec3A::from(ray.direction).recip());
        let mut reach = far;
        // Where the ray enters a box, or infinity if it passes it by.
        let enter = |node: &Node| {
            let (a, b) = ((node.low - origin) * inverse, (node.high - origin) * inverse);
            let enter = a.min(b).max_element().max(0.0);
            if enter <= a.max(b).min_element() { enter } else { f32::INFINITY }
        };
        let Some(root) = self.nodes.first() else { return };
        // The tree is balanced, so 24 levels hold far more shapes than a scene has.
        let mut stack = [(0u32, 0f32); 24];
        stack[0].1 = enter(root);
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let (index, entry) = stack[depth];
            if entry >= reach {
                continue;
            }
            match self.nodes[index as usize].below {
                Below::Shapes { first, count } => {
                    if !visit(first, count, &mut reach) {
                        return;
                    }
                }
                Below::Nodes { left, right } => {
                    let (l, r) = (left as u32, right as u32);
                    let (l, r) = ((l, enter(&self.nodes[left])), (r, enter(&self.nodes[right])));
                    let (near, late) = if l.1 < r.1 { (l, r) } else { (r, l) };
                    stack[depth] = late;
                    stack[depth + 1] = near;
                    depth += 2;
                }
            }
        }
    }
}

fn build(shapes: &mut [Placed], first: usize, count: usize, nodes: &mut Vec<Node>) -> usize {
    let here = nodes.len();
    let part = &mut shapes[first..first + count];
    let (mut low, mut high) = (Vec3A::INFINITY, Vec3A::NEG_INFINITY);
    for shape in part.iter() {
        let [a, b] = shape.bounds();
        (low, high) = (low.min(a.into()), high.max(b.into()));
    }
    nodes.push(Node { low, high, below: Below::Shapes { first, count } });
    if count > LEAF {
        let size = high - low;
        let axis = (0..3).max_by(|&a, &b| size[a].total_cmp(&size[b])).unwrap_or(0);
        let middle = |s: &Placed| s.bounds().iter().map(|c| c[axis]).sum::<f32>();
        part.sort_by(|a, b| middle(a).total_cmp(&middle(b)));
        let half = count / 2;
        let left = build(shapes, first, half, nodes);
        let right = build(shapes, first + half, count - half, nodes);
        nodes[here].below = Below::Nodes { left, right };
    }
    here
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shape::Shape;
    use glam::{Affine3A, Quat, Vec3};

    #[test]
    fn the_tree_finds_what_a_plain_search_finds() {
        let mut rng = fastrand::Rng::with_seed(4);
        let mut v = |k: f32| Vec3::new(rng.f32() - 0.5, rng.f32() - 0.5, rng.f32() - 0.5) * k;
        let shapes: Vec<Placed> = (0..60)
            .map(|i| {
                let place =
                    Affine3A::from_scale_rotation_translation(Vec3::splat(0.4), Quat::IDENTITY, v(9.0));
                Placed::new(Shape::Sphere, place, i, 0)
            })
            .collect();
        let tree = Tree::new(shapes.clone());
        let mut met = 0;
        for _ in 0..2000 {
            let ray = Ray { origin: v(12.0), direction: v(2.0) };
            let plain = shapes
                .iter()
                .filter_map(|s| s.meets(&ray, 1e9).map(|m| (m.t, s.id)))
                .min_by(|a, b| a.0.total_cmp(&b.0));
            let found = tree.nearest(&ray, 1e9).map(|(h, s)| (h.t, s.id));
            assert_eq!(found, plain);
            assert_eq!(tree.blocked(&ray, 1e9), plain.is_some());
            met += usize::from(plain.is_some());
        }
        assert!(met > 200, "the rays must meet something: {met}");
    }
}
