//! The change of the claim.

use serde::{Deserialize, Serialize};

use super::ClaimState;
use crate::inquiry::Claim;

/// Another claim. It is small.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ClaimChange {
    /// The claim.
    pub claim: Option<Claim>,
}

impl ClaimState {
    pub(in crate::logbook) fn change(&mut self, ClaimChange { claim }: ClaimChange) -> ClaimChange {
        ClaimChange { claim: std::mem::replace(&mut self.claim, claim) }
    }
}
