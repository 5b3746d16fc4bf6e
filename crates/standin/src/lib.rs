//! The stand-in renderer: the Veldmere orrery, every pass exact, and true re-renders.
