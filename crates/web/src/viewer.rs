//! Who looks at a logbook, and what that lets a person do and see. Being a teacher is never inferred from not being allowed to write.

/// Who looks at a logbook.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Viewer {
    /// One of those whose logbook it is.
    Member,
    /// The teacher of its class.
    Teacher,
    /// A teacher in a logbook of the teacher's own: trying a sheet as a student meets it, or at the free bench.
    Own,
}

impl Viewer {
    /// Whether this person may change the work, while it is not handed in.
    pub(crate) fn may_write(self) -> bool {
        match self {
            Self::Member | Self::Own => true,
            Self::Teacher => false,
        }
    }

    /// Whether this person says words to those whose logbook it is.
    pub(crate) fn may_say(self) -> bool {
        match self {
            Self::Member | Self::Own => false,
            Self::Teacher => true,
        }
    }

    /// Whether this person may send the logbook back.
    pub(crate) fn may_send_back(self) -> bool {
        match self {
            Self::Member => false,
            Self::Teacher | Self::Own => true,
        }
    }

    /// Whether this person sees the right answer, what is hidden, and what the sheet keeps closed for now.
    pub(crate) fn sees_key(self) -> bool {
        match self {
            Self::Member => false,
            Self::Teacher | Self::Own => true,
        }
    }
}
