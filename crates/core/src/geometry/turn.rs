//! The turn by which directions are found again.

use nalgebra::{Matrix3, Vector3};

/// The turn by which the second of each pair is found best from the first (Kabsch 1976), of the sum of second · firstᵀ;
/// `None` for sums that are no numbers.
pub(crate) fn best_turn(sum: Matrix3<f64>) -> Option<Matrix3<f64>> {
    let svd = sum.svd(true, true);
    let (u, v) = (svd.u?, svd.v_t?);
    // A mirror is no turn.
    let side = (u * v).determinant().signum();
    Some(u * Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, side)) * v)
}
