//! What can be filled in on a sheet, by path, and how it is written into the text.

/// How a field is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// Text that may be left out.
    Text,
    /// Text that stays, also when it is blank.
    Needed,
    /// A whole number.
    Count,
    /// Yes or no; no is left out.
    Truth,
    /// A list, one entry a line; an empty one is left out.
    Lines,
    /// A list that stays, also when it is empty.
    Names,
    /// Names and values, `name = value`, one a line; none are left out.
    Pairs,
    /// What a setting does, from a rule and up to two values.
    Setting,
    /// An answer to choose from: right or wrong, its text, and a word about it.
    Choice,
    /// A level: its points and its words.
    Level,
}

/// Paths, with `*` for the place in a list or the name of a setting.
const FIELDS: [(&str, Kind); 76] = [
    ("number", Kind::Needed),
    ("title", Kind::Needed),
    ("unit", Kind::Needed),
    ("rig", Kind::Text),
    ("film", Kind::Text),
    ("own_films", Kind::Truth),
    ("trials", Kind::Count),
    ("most_trials", Kind::Count),
    ("deals", Kind::Count),
    ("table", Kind::Text),
    ("strip", Kind::Text),
    ("read_out", Kind::Text),
    ("slips", Kind::Text),
    ("step_model", Kind::Truth),
    ("tracks", Kind::Names),
    ("record", Kind::Names),
    ("instruments", Kind::Names),
    ("arrows", Kind::Names),
    ("varied_together", Kind::Names),
    ("stamps", Kind::Names),
    ("settings.*", Kind::Setting),
    ("columns.*.kind", Kind::Needed),
    ("columns.*.name", Kind::Needed),
    ("columns.*.symbol", Kind::Needed),
    ("columns.*.unit", Kind::Text),
    ("columns.*.table", Kind::Text),
    ("columns.*.division", Kind::Text),
    ("columns.*.parts", Kind::Count),
    ("columns.*.values", Kind::Lines),
    ("columns.*.groups", Kind::Truth),
    ("columns.*.from", Kind::Text),
    ("columns.*.counts", Kind::Truth),
    ("forecast.hold", Kind::Truth),
    ("forecast.duration", Kind::Text),
    ("forecast.rounds", Kind::Count),
    ("forecast.curves.*.channel", Kind::Needed),
    ("forecast.curves.*.name", Kind::Needed),
    ("forecast.curves.*.from", Kind::Needed),
    ("forecast.curves.*.to", Kind::Needed),
    ("forecast.hypothesis.causes", Kind::Names),
    ("forecast.hypothesis.effects", Kind::Names),
    ("forecast.prediction.question", Kind::Needed),
    ("forecast.prediction.unit", Kind::Text),
    ("questions.*.at", Kind::Needed),
    ("questions.*.ask", Kind::Needed),
    ("questions.*.check", Kind::Text),
    ("questions.*.tries", Kind::Count),
    ("questions.*.holds", Kind::Truth),
    ("questions.*.answer", Kind::Text),
    ("questions.*.words", Kind::Count),
    ("questions.*.several", Kind::Truth),
    ("questions.*.number.unit", Kind::Needed),
    ("questions.*.number.value", Kind::Text),
    ("questions.*.number.key", Kind::Text),
    ("questions.*.number.of", Kind::Text),
    ("questions.*.number.within", Kind::Text),
    ("questions.*.sentence", Kind::Needed),
    ("questions.*.point", Kind::Needed),
    ("questions.*.largest", Kind::Text),
    ("questions.*.smallest", Kind::Text),
    ("questions.*.pupil", Kind::Needed),
    ("questions.*.argument", Kind::Needed),
    ("questions.*.position", Kind::Text),
    ("questions.*.choices.*", Kind::Choice),
    ("criteria.*.name", Kind::Needed),
    ("criteria.*.sees", Kind::Text),
    ("criteria.*.levels.*", Kind::Level),
    ("goal.symbol", Kind::Needed),
    ("goal.name", Kind::Needed),
    ("goal.accepted", Kind::Text),
    ("goal.source", Kind::Text),
    ("goal.key", Kind::Text),
    ("goal.unit", Kind::Text),
    ("goal.one_trial", Kind::Text),
    ("goal.one_motion", Kind::Truth),
    ("goal.readings", Kind::Pairs),
];

/// The same for what only some sheets have.
const MORE_FIELDS: [(&str, Kind); 13] = [
    ("goal.beside", Kind::Pairs),
    ("goal.with", Kind::Pairs),
    ("expected.*.x", Kind::Needed),
    ("expected.*.across", Kind::Needed),
    ("expected.*.up", Kind::Needed),
    ("expected.*.curve", Kind::Needed),
    ("conditions.*.name", Kind::Needed),
    ("conditions.*.symbol", Kind::Text),
    ("conditions.*.unit", Kind::Text),
    ("films.*.film", Kind::Needed),
    ("films.*.conditions", Kind::Lines),
    ("films.*.rulers", Kind::Lines),
    ("films.*.axes", Kind::Text),
];

/// How the field at a path is written; none where nothing can be filled in.
pub(super) fn kind_of(path: &str) -> Option<Kind> {
    let fits = |pattern: &str| {
        let (mut wanted, mut given) = (pattern.split('.'), path.split('.'));
        loop {
            match (wanted.next(), given.next()) {
                (None, None) => return true,
                (Some("*"), Some(_)) => {}
                (Some(a), Some(b)) if a == b => {}
                _ => return false,
            }
        }
    };
    FIELDS.iter().chain(&MORE_FIELDS).find(|(pattern, _)| fits(pattern)).map(|(_, kind)| *kind)
}
