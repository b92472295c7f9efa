//! What reads bytes that come from outside, one function each. `main.rs` feeds them for some seconds in every run of the tests, `fuzz/`
//! for as long as one likes. None may panic, hang, or take memory that the bytes only claim.

use std::io::{Cursor, Write};
use std::sync::{Arc, OnceLock};

use zeitmass_core::formula::Formula;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{Edit, Logbook, OfficeEdit, State};
use zeitmass_core::quantity::{Source, Uncertain, Unit};
use zeitmass_film::stills::{Wanted, times, unpack};
use zeitmass_film::{Grey, Rgb};
use zeitmass_web::read_table;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// A reader of foreign bytes.
pub type Reader = fn(&[u8]);

/// All of them, by name.
pub const READERS: [(&str, Reader); 11] = [
    ("table", table),
    ("ods_content", ods_content),
    ("xlsx_cells", xlsx_cells),
    ("xlsx_words", xlsx_words),
    ("picture", picture),
    ("stills", stills),
    ("stills_times", stills_times),
    ("lab_sheet", lab_sheet),
    ("formula", formula),
    ("logbook", logbook),
    ("edit", edit),
];

fn table(bytes: &[u8]) {
    let _ = read_table("brought.xlsx", bytes);
}

/// A zip of these parts, not packed: bytes that change stay where they are.
fn zipped(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, part) in parts {
        let plain = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        zip.start_file(*name, plain).expect("a file");
        zip.write_all(part).expect("memory");
    }
    zip.finish().expect("memory").into_inner()
}

fn ods_content(bytes: &[u8]) {
    let _ = read_table("brought.ods", &zipped(&[("content.xml", bytes)]));
}

const BOOK: &[u8] = br#"<workbook><sheets><sheet name="a" sheetId="1" r:id="r1"/></sheets></workbook>"#;
const RELATIONS: &[u8] = br#"<Relationships><Relationship Id="r1" Target="worksheets/1.xml"/></Relationships>"#;

fn xlsx(words: &[u8], cells: &[u8]) {
    let parts = [
        ("xl/workbook.xml", BOOK),
        ("xl/_rels/workbook.xml.rels", RELATIONS),
        ("xl/sharedStrings.xml", words),
        ("xl/worksheets/1.xml", cells),
    ];
    let _ = read_table("brought.xlsx", &zipped(&parts));
}

fn xlsx_cells(bytes: &[u8]) {
    xlsx(b"<sst><si><t>L (m)</t></si><si><t>t (s)</t></si></sst>", bytes);
}

fn xlsx_words(bytes: &[u8]) {
    xlsx(
        bytes,
        br#"<worksheet><sheetData><row><c t="s"><v>0</v></c><c t="s"><v>1</v></c></row></sheetData></worksheet>"#,
    );
}

fn picture(bytes: &[u8]) {
    // Each is read as a whole or not at all.
    if let (Ok(colours), Ok(grey)) = (Rgb::read(bytes), Grey::read(bytes)) {
        assert_eq!((colours.width, colours.height), (grey.width, grey.height));
        assert_eq!((colours.data.len(), grey.data.len()), (3 * grey.width * grey.height, grey.width * grey.height));
    }
}

fn stills(bytes: &[u8]) {
    let wanted = Wanted { most_frames: 20, most_bytes: 2_000_000, longest_side: 160, rate: 25.0, quality: 90 };
    let mut seen = 0;
    let told = unpack(Cursor::new(bytes), &wanted, &mut |still| {
        assert!(still.size.0.max(still.size.1) <= 160 && still.time.is_finite());
        seen += 1;
        true
    })
    .ok();
    // Frames handed over before a mistake are not taken back.
    assert!(seen <= 20 && told.is_none_or(|n| n == seen));
}

fn stills_times(bytes: &[u8]) {
    if let Ok(times) = times(bytes, 3) {
        assert!(times.len() == 3 && times.windows(2).all(|w| w[0] < w[1]));
    }
}

fn lab_sheet(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    if let Ok(sheet) = LabSheet::parse(text) {
        let book = Logbook::new(Arc::new(sheet), 7);
        let _ = (book.setup(&std::collections::BTreeMap::new()).is_ok(), book.analyse());
    }
}

fn formula(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let Ok(read) = Formula::parse(text) else { return };
    // What is read is written as it was, and means the same again.
    assert_eq!(Formula::parse(read.text()).expect("its own text").tree(), read.tree());
    let _ = read.unit(&|_| Ok(Unit::one()));
    let _ = read.evaluate(&|_| Ok(Uncertain::from_source(1.5, 0.1, Source(1))));
}

fn pendulum() -> Logbook {
    static SHEET: OnceLock<Arc<LabSheet>> = OnceLock::new();
    let sheet = SHEET.get_or_init(|| {
        Arc::new(LabSheet::parse(include_str!("../../../../labs/2.1-tower-pendulum.md")).expect("a sheet"))
    });
    Logbook::new(Arc::clone(sheet), 7)
}

/// Does an edit, and what a page would ask for then.
fn carry_out(edit: &Edit) {
    let mut book = pendulum();
    let before = book.clone();
    if book.apply(edit, 0).is_err() {
        assert!(book == before, "a refused edit changes nothing");
        return;
    }
    let _ = (book.setup(&std::collections::BTreeMap::new()).is_ok(), book.standing(), book.snapshot());
    for (graph, _) in &book.analyse().graphs {
        let _ = book.strip(*graph);
    }
    // Handing in cannot be taken back, nor a forecast once the rig was seen.
    if book.apply(&Edit::Undo, 0).is_ok() {
        let (mut now, was) = (book.state().clone(), before.state());
        // What was seen stays seen.
        now.run.seen = was.run.seen;
        if now != *was {
            let text = |s: &State| serde_json::to_string_pretty(s).expect("a state");
            panic!("undo brings back what was:\n{}\nnot\n{}", text(&now), text(was));
        }
    }
}

fn logbook(bytes: &[u8]) {
    if let Ok(content) = serde_json::from_slice::<State>(bytes) {
        carry_out(&Edit::Office(OfficeEdit::Restore { content: Box::new(content) }));
    }
}

fn edit(bytes: &[u8]) {
    if let Ok(edit) = serde_json::from_slice::<Edit>(bytes) {
        carry_out(&edit);
    }
}
