//! What goes over the wire. The web's types are made from these (`make types`).

mod arrivals;
mod jobs;
mod light;
mod moves;
mod passes;
mod pictures;
mod presets;
mod refusal;
mod shots;
mod tracks;

pub use arrivals::*;
pub use jobs::*;
pub use light::*;
pub use moves::*;
pub use passes::*;
pub use pictures::*;
pub use presets::*;
pub use refusal::*;
pub use shots::*;
pub use tracks::*;
