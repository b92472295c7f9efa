//! The write-up's blocks: their usual order, what moves them, what introduces them, and what is left out.

use proptest::prelude::*;
use zeitmass_core::logbook::{
    Counted, Edit, GraphEdit, Limit, Logbook, OfficeEdit, RecordEdit, Refusal, RowAt, RunEdit, Shows, Sources, Taken,
    TextField, WriteUpEdit,
};

use crate::common::{done, empty, refused, worked};

/// Two tables and a graph.
fn book() -> Logbook {
    let mut book = empty();
    for (table, name, text) in [(Some(1), "", "L (m)\tt10 (s)\n0.5\t14.2\n1.0\t20.1"), (None, "second", "m (g)\n5\n6")]
    {
        let (name, text) = (name.to_owned(), text.to_owned());
        done(&mut book, Edit::Record(RecordEdit::Paste { table, name, row: RowAt::Below, column: None, text }));
    }
    done(&mut book, worked("period", "T", "t10/10"));
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(2) }));
    book
}

fn order(book: &Logbook) -> Vec<Shows> {
    book.write_up().into_iter().map(|laid| laid.block.shows).collect()
}

fn introduce(block: Shows, text: &str, was: &str) -> Edit {
    Edit::WriteUp(WriteUpEdit::Introduce { block, text: text.into(), was: was.into() })
}

#[test]
fn tables_and_graphs_are_numbered_in_their_order_and_ask_for_their_sentence() {
    let mut book = book();
    let second = book.state().record.tables[1].id;
    let numbered = |book: &Logbook| {
        let all = book.write_up().into_iter().filter_map(|l| Some((l.block.shows, l.number?, l.wants_intro)));
        all.collect::<Vec<_>>()
    };
    let (first, other, graph) = (Shows::Table(1), Shows::Table(second), Shows::Graph(1));
    assert_eq!(numbered(&book), [(first, 1, true), (other, 2, true), (graph, 1, true)]);
    done(&mut book, introduce(first, "Table 1 has the times of ten swings.", ""));
    done(&mut book, Edit::WriteUp(WriteUpEdit::Step { block: other, by: -1 }));
    assert_eq!(numbered(&book), [(other, 1, true), (first, 2, false), (graph, 1, true)]);
    // What is left out has no number, asks for nothing, and comes back as it was.
    done(&mut book, Edit::WriteUp(WriteUpEdit::Show { block: other, on: false }));
    assert_eq!(numbered(&book), [(first, 1, false), (graph, 1, true)]);
    done(&mut book, Edit::WriteUp(WriteUpEdit::Show { block: other, on: true }));
    // The graph to the very top, a text of one's own before it.
    done(&mut book, Edit::WriteUp(WriteUpEdit::Move { block: graph, before: Some(Shows::Question) }));
    done(&mut book, Edit::WriteUp(WriteUpEdit::AddText { before: Some(graph) }));
    let own = order(&book)[0];
    assert!(matches!(own, Shows::Own(_)) && order(&book)[1] == graph);
    done(&mut book, introduce(own, "We measured on a windy day.", ""));
    // Two partners write at once: the second is told, and nothing is lost.
    let late = introduce(own, "Mine.", "");
    assert!(matches!(refused(&mut book, &late), Refusal::TextChanged { .. }));
    for edit in [WriteUpEdit::RemoveText { block: graph }, WriteUpEdit::Show { block: Shows::Graph(77), on: false }] {
        refused(&mut book, &Edit::WriteUp(edit));
    }
    refused(&mut book, &introduce(first, &"x".repeat(2001), "Table 1 has the times of ten swings."));
    done(&mut book, Edit::WriteUp(WriteUpEdit::RemoveText { block: own }));
    assert_eq!(order(&book)[0], graph);
    // What comes later stands behind what it stands behind by itself.
    let (name, text) = ("third".to_owned(), "q (m)\n1".to_owned());
    done(&mut book, Edit::Record(RecordEdit::Paste { table: None, name, row: RowAt::Below, column: None, text }));
    let third = Shows::Table(book.state().record.tables[2].id);
    let all = order(&book);
    let at = |shows: Shows| all.iter().position(|s| *s == shows).unwrap();
    assert_eq!(at(third), at(other) + 1, "{all:?}");
    let sources = |n: usize| Sources::of(&book.state().record.tables[n]);
    assert_eq!((sources(0).measured, sources(0).calculated), (vec!["L".into(), "t10".into()], vec!["T".to_owned()]));
    assert_eq!((sources(1).measured, sources(1).calculated), (vec!["m".to_owned()], vec![]));
}

/// A file that was changed by hand brings neither blocks without end nor the same one twice.
#[test]
fn a_forged_arrangement_is_refused() {
    let mut book = book();
    done(&mut book, Edit::WriteUp(WriteUpEdit::Step { block: Shows::Graph(1), by: -1 }));
    let file = serde_json::to_value(book.state()).unwrap();
    let restore = |file: serde_json::Value| {
        Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_value(file).unwrap()) })
    };
    done(&mut book.clone(), restore(file.clone()));
    let block = |k: u32| serde_json::json!({ "shows": { "own": k }, "intro": "x" });
    let many: Vec<_> = (0..300).map(block).collect();
    let picture =
        |k: u32| serde_json::json!({ "shows": { "picture": k }, "taken": { "run": { "run": 1, "frame": k } } });
    let of_nothing = serde_json::json!({ "shows": { "picture": 1 } });
    for blocks in [
        many,
        (0..13).map(picture).collect(),
        vec![of_nothing],
        vec![block(7), block(7)],
        vec![serde_json::json!({ "shows": "question", "intro": "x".repeat(30_000) })],
    ] {
        let mut forged = file.clone();
        forged["write_up"]["blocks"] = blocks.into();
        refused(&mut book, &restore(forged));
    }
    let mut forged = file;
    forged["claim"] =
        serde_json::json!({ "claim": { "cause": 1, "effect": 2, "curve": "level", "evidence": vec![1; 300] } });
    refused(&mut book, &restore(forged));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    /// However blocks are moved: each is there once, and undo after undo leads back to the usual order.
    #[test]
    fn no_block_is_lost_or_doubled(moves in prop::collection::vec((0usize..16, 0usize..18, -20i32..20, any::<bool>()), 0..12)) {
        let mut book = book();
        let usual = order(&book);
        let mut depth = 0;
        for (block, before, by, step) in moves {
            let all = order(&book);
            let block = all[block % all.len()];
            let edit = if step { WriteUpEdit::Step { block, by } } else { WriteUpEdit::Move { block, before: all.get(before).copied() } };
            let changes = book.apply(&Edit::WriteUp(edit), 0).unwrap().deed.changes.len();
            depth += usize::from(changes > 0);
            let mut sorted = order(&book);
            sorted.sort_unstable();
            let mut wanted = usual.clone();
            wanted.sort_unstable();
            prop_assert_eq!(sorted, wanted);
            prop_assert!(order(&book).contains(&Shows::Text(TextField::Claim)));
        }
        for _ in 0..depth {
            done(&mut book, Edit::Undo);
        }
        prop_assert_eq!(order(&book), usual);
    }
}

#[test]
fn a_picture_of_the_stage_is_a_figure_before_the_tables_and_can_be_taken_away() {
    let mut book = book();
    let take = |run, frame| Edit::WriteUp(WriteUpEdit::TakePicture { of: Taken::Run { run, frame } });
    let film = |from, to, step| {
        let film = "no such film".to_owned();
        Edit::WriteUp(WriteUpEdit::TakePicture { of: Taken::Film { film, from, to, step, bright: true } })
    };
    refused(&mut book, &take(1, 0));
    refused(&mut book, &film(0, 0, 1));
    done(&mut book, Edit::Run(RunEdit::Run));
    let last = book.state().run(1).unwrap().made.frames - 1;
    for of in [take(0, 0), take(2, 0), take(1, last + 1), take(u32::MAX, u32::MAX), film(3, 2, 0)] {
        refused(&mut book, &of);
    }
    for frame in [last, 7] {
        done(&mut book, take(1, frame));
    }
    refused(&mut book, &take(1, 7));
    let pictures = |book: &Logbook| {
        let all = book.write_up().into_iter();
        all.filter_map(|l| matches!(l.block.shows, Shows::Picture(_)).then_some((l.block, l.number, l.wants_intro)))
            .collect::<Vec<_>>()
    };
    let taken = pictures(&book);
    assert_eq!(taken.iter().map(|p| p.1).collect::<Vec<_>>(), [Some(1), Some(2)]);
    assert!(taken.iter().all(|p| p.2), "each asks for its sentence");
    let place = |shows| order(&book).iter().position(|s| *s == shows).unwrap();
    assert!(place(taken[1].0.shows) < place(Shows::Table(1)), "what it looked like comes before what was read off it");
    let graph = book.write_up().into_iter().find(|l| l.block.shows == Shows::Graph(1)).unwrap();
    assert_eq!(graph.number, Some(3));
    // The run is deleted: the picture's place and sentence stay, and undo brings it all back.
    done(&mut book, introduce(taken[0].0.shows, "The tower from the west.", ""));
    done(&mut book, Edit::Run(RunEdit::DeleteRun { run: 1 }));
    assert_eq!(pictures(&book)[0].0.intro, "The tower from the west.");
    done(&mut book, Edit::Undo);
    let Shows::Picture(id) = taken[1].0.shows else { unreachable!() };
    done(&mut book, Edit::WriteUp(WriteUpEdit::RemovePicture { picture: id }));
    refused(&mut book, &Edit::WriteUp(WriteUpEdit::RemovePicture { picture: id }));
    done(&mut book, Edit::Undo);
    for frame in 8..18 {
        done(&mut book, take(1, frame));
    }
    let full = Refusal::Limit(Limit::Many { of: Counted::Pictures, most: 12 });
    assert_eq!(refused(&mut book, &take(1, 18)), full);
}
