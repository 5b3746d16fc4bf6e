//! Reading a pass: what it means, how it was stored, what is wrong with it and what puts it right.
//!
//! | module | subject |
//! |---|---|
//! | [`role`] | what a pass means |
//! | [`stored`] | how its samples lie in a file |
//! | [`convention`] | the way from stored samples to canonical ones |
//! | [`background`] | the stored value that means "nothing here" |
//! | `blended` | samples of a filtered depth that lie on no surface |
//! | [`repair`] | holes, edges and places put right |
//! | [`moved`] | a pass through a chain of moves |
//! | [`solve`] | the camera found in a position pass |
//! | [`checks`] | what is wrong with a pass, and the remedy |

pub mod background;
mod blended;
pub mod checks;
pub mod convention;
pub mod moved;
pub mod repair;
pub mod role;
pub mod solve;
pub mod stored;
