//! How far two coordinate maps lie apart.

use super::extraction::Extraction;
use crate::kinds::prelude::*;

/// Parameters of Difference of maps.
#[parameters]
pub struct MapDifference {
    /// The map that is asked about; the one that serves if none is chosen.
    #[param(label = "Map", means = "pass", group = "Maps")]
    #[ts(optional = nullable)]
    pub map: Option<u32>,
    /// The map that it is held against; none is the map that moves nothing.
    #[param(label = "Against", means = "pass", group = "Maps")]
    #[ts(optional = nullable)]
    pub against: Option<u32>,
}

impl Kind for MapDifference {
    fn about(&self) -> About {
        About {
            title: "Difference of maps",
            about: "How far the places of two ST maps lie apart, px, as vectors from the one to the other.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let first = self.map.map_or(needs(Role::StMap), Want::Pass);
        [Some(first), self.against.map(Want::Pass)].into_iter().flatten().collect()
    }

    fn sentence(&self) -> String {
        match self.against {
            Some(_) => "Difference of two maps".into(),
            None => "How far a map moves".into(),
        }
    }
}

impl Extraction for MapDifference {
    fn gives(&self) -> Role {
        Role::Other
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let numbered: Vec<&Raster> = inputs.numbered().collect();
        let missing = |id| ShotError::Missing { what: "pass", id };
        let (map, rest) = match self.map {
            Some(id) => {
                let (first, rest) = numbered.split_first().ok_or_else(|| missing(id))?;
                (*first, rest)
            }
            None => (inputs.need(Role::StMap)?, &numbered[..]),
        };
        let against = self.against.map(|id| rest.first().copied().ok_or_else(|| missing(id))).transpose()?;
        map.expect_channels("the map", 2)?;
        if let Some(against) = against {
            against.expect_channels("the other map", 2)?;
        }
        let (frame, step) = (inputs.frame, inputs.scale.step() as f32);
        let size = [frame.width as f32, frame.height as f32];
        let corner = [frame.x as f32, frame.y as f32];
        // Places in full-resolution px, right and down; nothing where a map says nothing.
        let place = |of: &Raster, x: i32, y: i32| -> Option<[f32; 2]> {
            let (s, t) = (of.sample(0, x, y)?, of.sample(1, x, y)?);
            let is = s.is_finite() && t.is_finite() && (s, t) != (0.0, 0.0);
            is.then(|| [s * size[0] + corner[0], (1.0 - t) * size[1] + corner[1]])
        };
        let own = |x: i32, y: i32| [(x as f32 + 0.5) * step, (y as f32 + 0.5) * step];
        Ok(Raster::from_fn(map.window(), 2, |c, x, y| {
            let other = match against {
                Some(of) => place(of, x, y),
                None => Some(own(x, y)),
            };
            match (place(map, x, y), other) {
                (Some(a), Some(b)) => a[c] - b[c],
                _ => 0.0,
            }
        }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_what_is_compared() {
        assert_eq!(MapDifference::default().sentence(), "How far a map moves");
        let both = MapDifference { map: Some(3), against: Some(4) };
        assert_eq!(both.sentence(), "Difference of two maps");
        assert_eq!(both.wants(), [Want::Pass(3), Want::Pass(4)]);
    }
}
