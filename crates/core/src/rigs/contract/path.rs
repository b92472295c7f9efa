//! Paths: settings that are a list of nodes, such as a track.

use serde::{Deserialize, Serialize};

use crate::quantity::is_minus;

/// A node of a path, in the setting's unit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Node {
    /// Where it is: x to the right, y up.
    pub at: [f64; 2],
    /// Radius of a loop that stands behind it, before the next node; none without.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ring: Option<f64>,
}

/// What nodes a setting takes, in its unit.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PathLimits {
    /// Fewest and most nodes.
    pub count: [usize; 2],
    /// Smallest and largest x.
    pub x: [f64; 2],
    /// Smallest and largest y.
    pub y: [f64; 2],
    /// Smallest and largest radius of a loop.
    pub ring: [f64; 2],
    /// Step of all of them.
    pub step: f64,
}

/// A number of a node.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NodePart {
    /// Its place.
    X,
    /// Its height.
    Y,
    /// The radius of its loop.
    Radius,
}

/// Why a path cannot be taken as it is typed.
#[derive(Clone, Debug, PartialEq)]
pub enum PathError {
    /// Too few or too many nodes.
    Count {
        /// How many it has at least.
        least: usize,
        /// And at most.
        most: usize,
        /// How many these are.
        nodes: usize,
    },
    /// A number that lies outside of what it can be.
    Outside {
        /// Which number of the node.
        part: NodePart,
        /// Which node, from 1.
        number: usize,
        /// From where to where it can be.
        range: [f64; 2],
        /// The node as typed, shortened.
        typed: String,
    },
    /// No node at all.
    Unreadable {
        /// Which node, from 1.
        number: usize,
        /// The node as typed, shortened.
        typed: String,
    },
}

/// The word before a loop's radius.
const RING: &str = "loop";

impl PathLimits {
    /// Reads nodes as they are typed: x and y of each, nodes parted by semicolons, a loop behind its node: `0 3; 2 0.5 loop 0.4; 4 1`.
    ///
    /// # Errors
    /// [`PathError`], by which node is wrong and what it can be.
    pub fn read(&self, typed: &str) -> Result<Vec<Node>, PathError> {
        let parts: Vec<&str> = typed.split(';').map(str::trim).filter(|p| !p.is_empty()).collect();
        let [least, most] = self.count;
        if !(least..=most).contains(&parts.len()) {
            return Err(PathError::Count { least, most, nodes: parts.len() });
        }
        parts.iter().enumerate().map(|(i, part)| self.node(i + 1, part)).collect()
    }

    fn node(&self, number: usize, text: &str) -> Result<Node, PathError> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let shown: String = text.chars().take(30).collect();
        let value = |word: &str, [low, high]: [f64; 2], part: NodePart| {
            let value: f64 = word.replace(',', ".").replace(is_minus, "-").parse().unwrap_or(f64::NAN);
            if !(value >= low - 1e-9 && value <= high + 1e-9) {
                return Err(PathError::Outside { part, number, range: [low, high], typed: shown.clone() });
            }
            Ok((value / self.step).round() / self.step.recip().round())
        };
        let (place, ring) = match words[..] {
            [x, y] => ([x, y], None),
            [x, y, RING, radius] => ([x, y], Some(value(radius, self.ring, NodePart::Radius)?)),
            _ => {
                return Err(PathError::Unreadable { number, typed: shown });
            }
        };
        Ok(Node { at: [value(place[0], self.x, NodePart::X)?, value(place[1], self.y, NodePart::Y)?], ring })
    }
}

/// Nodes as they are typed.
pub fn written(nodes: &[Node]) -> String {
    let one = |n: &Node| {
        let ring = n.ring.map_or_else(String::new, |r| format!(" {RING} {r}"));
        format!("{} {}{ring}", n.at[0], n.at[1])
    };
    nodes.iter().map(one).collect::<Vec<_>>().join("; ")
}

/// What two people made of the same nodes at the same time: `mine` keeps to the nodes it changed since it saw them, all others are as they are
/// now in `theirs`. Of a node that both moved mine counts, being the later. None where nodes were put in or taken away and the changes overlap.
pub fn merged(seen: &[Node], mine: &[Node], theirs: &[Node]) -> Option<Vec<Node>> {
    if seen.len() == mine.len() && seen.len() == theirs.len() {
        let kept =
            seen.iter().zip(mine).zip(theirs).map(|((seen, mine), theirs)| if mine == seen { theirs } else { mine });
        return Some(kept.copied().collect());
    }
    let ([from, to], [their_from, their_to]) = (changed(seen, mine), changed(seen, theirs));
    let put = &mine[from..mine.len() - (seen.len() - to)];
    // Where mine stands among theirs: before what they changed, or as much farther on as theirs is longer.
    let (first, last) = if to <= their_from {
        (from, to)
    } else if their_to <= from {
        let moved = |at: usize| at + theirs.len() - seen.len();
        (moved(from), moved(to))
    } else {
        return None;
    };
    Some([&theirs[..first], put, &theirs[last..]].concat())
}

/// The nodes of `seen`, from one up to another, in whose place something else stands in `now`.
fn changed(seen: &[Node], now: &[Node]) -> [usize; 2] {
    let short = seen.len().min(now.len());
    let from = seen.iter().zip(now).take_while(|(a, b)| a == b).count();
    let back = seen.iter().rev().zip(now.iter().rev()).take_while(|(a, b)| a == b).count().min(short - from);
    [from, seen.len() - back]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const LIMITS: PathLimits =
        PathLimits { count: [2, 24], x: [0.0, 20.0], y: [-5.0, 10.0], ring: [0.1, 3.0], step: 0.01 };

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
        /// What is written reads as what it was, on the grid.
        #[test]
        fn a_path_reads_as_it_is_written(places in prop::collection::vec((0i32..2000, -500i32..1000, prop::option::of(10i32..300)), 2..24)) {
            let nodes: Vec<Node> = places.iter().map(|(x, y, r)| Node {
                at: [f64::from(*x) / 100.0, f64::from(*y) / 100.0],
                ring: r.map(|r| f64::from(r) / 100.0),
            }).collect();
            prop_assert_eq!(LIMITS.read(&written(&nodes)).unwrap(), nodes);
        }

        /// Two people move nodes, put some in or take some away: where both can be kept, each change of both is there, and nothing else.
        #[test]
        fn changes_of_two_people_are_kept(count in 3usize..9, one in (0usize..3, 0usize..9), other in (0usize..3, 0usize..9)) {
            let node = |x: f64| Node { at: [x, 0.0], ring: None };
            let seen: Vec<Node> = (0..count).map(|k| node(k as f64)).collect();
            let made = |(what, at): (usize, usize), new: f64| {
                let (mut nodes, at) = (seen.clone(), at % count);
                match what {
                    0 => nodes[at] = node(new),
                    1 => nodes.insert(at, node(new)),
                    _ => drop(nodes.remove(at)),
                }
                nodes
            };
            let (mine, theirs) = (made(one, 100.0), made(other, 200.0));
            match merged(&seen, &mine, &theirs) {
                Some(both) => {
                    prop_assert_eq!(both.contains(&node(100.0)), one.0 < 2);
                    let same = one.0 == 0 && other.0 == 0 && one.1 % count == other.1 % count;
                    prop_assert_eq!(both.contains(&node(200.0)), other.0 < 2 && !same);
                    for node in &seen {
                        prop_assert_eq!(both.contains(node), mine.contains(node) && theirs.contains(node));
                    }
                }
                // Both at one node, and it is gone or new to one of them.
                None => prop_assert!((one.1 % count).abs_diff(other.1 % count) <= 1 && one.0 + other.0 > 0),
            }
            prop_assert_eq!(merged(&seen, &mine, &seen), Some(mine.clone()));
            prop_assert_eq!(merged(&seen, &seen, &theirs), Some(theirs));
        }

        #[test]
        fn no_text_is_taken_for_a_path_outside_its_limits(text in "[0-9a-z.,; −-]{0,60}") {
            if let Ok(nodes) = LIMITS.read(&text) {
                prop_assert!(nodes.iter().all(|n| (0.0..=20.0).contains(&n.at[0]) && (-5.0..=10.0).contains(&n.at[1])));
            }
        }
    }

    #[test]
    fn mistakes_name_the_node() {
        let outside =
            |part, number, range, typed: &str| PathError::Outside { part, number, range, typed: typed.to_owned() };
        let count = |nodes| PathError::Count { least: 2, most: 24, nodes };
        let unreadable = |typed: &str| PathError::Unreadable { number: 2, typed: typed.to_owned() };
        for (typed, wrong) in [
            ("0 3", count(1)),
            ("0 3; 2", unreadable("2")),
            ("0 3; 2 99", outside(NodePart::Y, 2, LIMITS.y, "2 99")),
            ("0 3; 2 1 ring 0.5", unreadable("2 1 ring 0.5")),
            ("0 3 loop 9; 2 1", outside(NodePart::Radius, 1, LIMITS.ring, "0 3 loop 9")),
            ("0 NaN; 2 1", outside(NodePart::Y, 1, LIMITS.y, "0 NaN")),
            (&"1 1;".repeat(25), count(25)),
        ] {
            assert_eq!(LIMITS.read(typed), Err(wrong), "{typed}");
        }
        assert_eq!(written(&LIMITS.read("0,5 3; 2 −0.5 loop 0.4").unwrap()), "0.5 3; 2 -0.5 loop 0.4");
    }
}
