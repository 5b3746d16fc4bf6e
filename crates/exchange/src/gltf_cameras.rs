//! Cameras out of glTF 2.0 (Khronos, ISO/IEC 12113:2022), text or binary.

use crate::error::{Damage, ExchangeError};
use glam::Mat4;
use gltf::camera::Projection;
use jugata_core::{Camera, Window};
use std::panic::catch_unwind;

/// A camera of a scene.
#[derive(Clone, Debug, PartialEq)]
pub struct NamedCamera {
    /// Its name, or that of the node that holds it.
    pub name: String,
    /// The camera, for the frame that it was asked for.
    pub camera: Camera,
}

/// Largest file that is looked at, bytes: a scene without its geometry's buffers is far smaller.
const MOST: usize = 256 << 20;

/// Nodes below nodes that are followed.
const DEEP: u32 = 256;

/// Every perspective camera of the file's scenes, with its pose; `yfov` is across the height of the frame. Its axes are
/// ours: x right, y up, looking along −z.
///
/// # Errors
/// No glTF; no perspective camera in it.
pub fn cameras(bytes: &[u8], display: Window) -> Result<Vec<NamedCamera>, ExchangeError> {
    if bytes.len() > MOST {
        let found = bytes.len() as u64;
        return Err(ExchangeError::Limit { what: "its length in bytes", found, most: MOST as u64 });
    }
    // The crate takes what a file names for granted, and falls where it is not there.
    catch_unwind(|| walked(bytes, display)).unwrap_or_else(|_| Err(Damage::NoScene.into()))
}

fn walked(bytes: &[u8], display: Window) -> Result<Vec<NamedCamera>, ExchangeError> {
    let read = gltf::Gltf::from_slice_without_validation(bytes);
    let document = read.map_err(|e| ExchangeError::damaged(Damage::NoScene, e))?.document;
    let mut walk = Walk { display, found: Vec::new(), left: NODES };
    for node in document.scenes().flat_map(|s| s.nodes()) {
        walk.below(&node, Mat4::IDENTITY, DEEP);
    }
    if walk.found.is_empty() { Err(Damage::NoCamera.into()) } else { Ok(walk.found) }
}

/// Nodes that are looked at: more than any scene has, and an end to nodes that name each other again and again.
const NODES: u32 = 1_000_000;

struct Walk {
    display: Window,
    found: Vec<NamedCamera>,
    /// Nodes that may still be looked at.
    left: u32,
}

impl Walk {
    fn below(&mut self, node: &gltf::Node<'_>, above: Mat4, deep: u32) {
        if deep == 0 || self.left == 0 {
            return;
        }
        self.left -= 1;
        let place = above * Mat4::from_cols_array_2d(&node.transform().matrix());
        if let Some(camera) = node.camera()
            && let Projection::Perspective(p) = camera.projection()
            && let Some(own) = placed(p.yfov(), place, self.display)
        {
            let name = camera.name().or(node.name()).unwrap_or("camera").chars().take(120).collect();
            self.found.push(NamedCamera { name, camera: own });
        }
        node.children().for_each(|n| self.below(&n, place, deep - 1));
    }
}

fn placed(yfov: f32, place: Mat4, display: Window) -> Option<Camera> {
    // A scale on the way to a camera is none of its own.
    let (_, turn, at) = place.to_scale_rotation_translation();
    let m = Mat4::from_rotation_translation(turn, at).inverse().to_cols_array();
    let focal = 0.5 * display.height as f32 / (0.5 * yfov).tan();
    let world = Some(std::array::from_fn(|i| m[(i % 4) * 4 + i / 4]));
    let camera = Camera { world, ..Camera::centred(focal, display) };
    camera.is_sound().then_some(camera)
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Vec3;

    const W: Window = Window::of_size(200, 100);

    #[test]
    fn a_camera_below_a_turned_node_is_where_the_standard_says() {
        // A node at (1, 2, 3) turned by 90° about y, and a camera 5 along its own z; yfov of 90°.
        let text = r#"{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[
            {"children":[1],"translation":[1,2,3],"rotation":[0,0.70710678,0,0.70710678]},
            {"camera":0,"translation":[0,0,5]}],
            "cameras":[{"name":"hall","type":"perspective","perspective":{"yfov":1.5707963,"znear":0.1}}]}"#;
        let found = cameras(text.as_bytes(), W).unwrap();
        assert_eq!((found.len(), found[0].name.as_str()), (1, "hall"));
        let c = found[0].camera;
        assert!((c.focal - 50.0).abs() < 1e-3 && c.centre_x == 100.0);
        // It stands at (6, 2, 3) and looks along −x: the origin of its node lies straight ahead, 5 away.
        assert!(c.from_world(Vec3::new(1.0, 2.0, 3.0), true).distance(Vec3::new(0.0, 0.0, -5.0)) < 1e-4);
        assert!(c.from_world(Vec3::NEG_Z, false).distance(Vec3::X) < 1e-5, "the world's −z is to its right");
    }

    #[test]
    fn what_holds_no_camera_says_so_in_a_sentence() {
        let none = r#"{"asset":{"version":"2.0"},"scenes":[{"nodes":[]}]}"#;
        // Found by fuzzing: the crate falls over a camera of no known type.
        let odd = r#"{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"camera":0}],
            "cameras":[{"type":"perspvitece"}]}"#;
        // Each node names the next one twice.
        let nodes: Vec<String> = (1..200).map(|i| format!(r#"{{"children":[{i},{i}]}}"#)).collect();
        let twice = format!(
            r#"{{"asset":{{"version":"2.0"}},"scenes":[{{"nodes":[0]}}],"nodes":[{},{{}}]}}"#,
            nodes.join(",")
        );
        for (bytes, words) in [
            (&b"no scene"[..], "is no glTF 2.0"),
            (odd.as_bytes(), "is no glTF 2.0"),
            (none.as_bytes(), "no perspective camera"),
            (twice.as_bytes(), "no perspective camera"),
        ] {
            let said = cameras(bytes, W).unwrap_err().to_string();
            assert!(said.contains(words) && said.ends_with('.'), "{said}");
        }
    }
}
