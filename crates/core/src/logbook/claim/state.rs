//! What is claimed.

use serde::{Deserialize, Serialize};

use crate::inquiry::Claim;

/// The claim of a logbook.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct ClaimState {
    /// What is claimed.
    pub claim: Option<Claim>,
}

impl ClaimState {
    pub(crate) fn is_empty(&self) -> bool {
        self.claim.is_none()
    }

    /// Gives what it names the ids it has now.
    pub(in crate::logbook) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        if let Some(Claim { cause, effect, evidence, .. }) = &mut self.claim {
            [cause, effect].into_iter().chain(evidence).for_each(id);
        }
    }
}
