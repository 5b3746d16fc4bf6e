//! The shot document and the engine that turns it into pictures.
