//! The rules and the computation of Zeitmass: no input or output, no HTML.
//!
//! In the order of work: a [`lab`] sheet describes an experiment, a [`rigs`] apparatus makes motion,
//! [`motion`] in a film is marked, readings are [`quantity`] values in a [`record`], worked columns follow a [`formula`], a [`graph`] and a
//! [`fit`] lead to a [`result`]; a [`step_model`] works the same motion out from its forces. All of it lives in a [`logbook`], which is the sum of its edits.

pub mod chance;
pub mod fit;
pub mod formula;
pub mod graph;
pub mod inquiry;
pub mod lab;
pub mod logbook;
pub mod motion;
mod number_keys;
#[doc(hidden)]
pub mod other_rules;
pub mod quantity;
pub mod record;
pub mod result;
pub mod rigs;
pub mod step_model;
