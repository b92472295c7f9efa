//! Files to take along and bring back: what goes out as CSV, ODS or XLSX comes in again with the same digits, and a logbook's
//! zip holds what its descriptor says.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};
use zeitmass_core::logbook::{ColumnText, Edit, GraphEdit, Logbook, RecordEdit, RowAt, RunEdit, Taken, WriteUpEdit};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use proptest::prelude::*;
use serde_json::Value;
use tower::ServiceExt;
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::quantity::{Dimension, Unit};
use zeitmass_core::record::ColumnKind;
use zeitmass_store::{Id, Store};
use zeitmass_web::{App, SHIPPED_SHEETS, router};

struct Bench {
    folder: tempfile::TempDir,
    app: Router,
    id: Id,
    student: Id,
    cookie: String,
}

fn bench(edits: &[Edit]) -> Bench {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let (key, source) = SHIPPED_SHEETS.into_iter().find(|(key, _)| key.starts_with("2.1-")).unwrap();
    store.load_shipped(key, source).unwrap();
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    let class = store.create_class(teacher, "10b").unwrap();
    store.assign(teacher, class, store.sheets(teacher).unwrap()[0].id).unwrap();
    let student = store.join(&store.class(teacher, class).unwrap().code, "Minna", "2718").unwrap();
    let id = store.open_logbook(student, store.assignments(class).unwrap()[0].id).unwrap();
    crate::common::work(&store, id, student, edits);
    let cookie = format!("zeitmass={}", store.begin_session(zeitmass_store::Actor::Student(student)).unwrap());
    Bench { app: router(App::new(store).unwrap()), folder, id, student, cookie }
}

impl Bench {
    async fn ask(&self, method: &str, path: &str, body: Vec<u8>) -> (StatusCode, Vec<u8>) {
        let request = Request::builder()
            .method(method)
            .uri(format!("/logbooks/{}/{path}", self.id))
            .header(header::COOKIE, &self.cookie)
            .body(Body::from(body))
            .unwrap();
        let answer = self.app.clone().oneshot(request).await.unwrap();
        let status = answer.status();
        (status, answer.into_body().collect().await.unwrap().to_bytes().to_vec())
    }

    fn book(&self) -> Logbook {
        Store::open(self.folder.path()).unwrap().load_logbook(self.id).unwrap().book
    }
}

fn paste(text: String) -> Edit {
    Edit::Record(RecordEdit::Paste { table: Some(1), name: String::new(), row: RowAt::Below, column: None, text })
}

/// Texts of the first columns of a table.
fn texts(book: &Logbook, table: usize, columns: usize) -> Vec<Vec<String>> {
    let analysis = book.analyse();
    let t = &analysis.tables[table];
    (0..t.rows.len()).map(|r| (0..columns).map(|c| t.text(c, r)).collect()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn a_table_comes_back_with_the_same_values(
        values in prop::collection::vec((-1e7f64..1e7, 0usize..6, prop::option::weighted(0.8, -1e-3f64..1e3), any::<bool>()), 1..12),
    ) {
        // Awkward on purpose: trailing zeros, negative and missing values, rows set aside, a name with a comma in it.
        let lines: String = values.iter().map(|(a, places, b, aside)| {
            let b = b.map(|b| format!("{b:.4}")).unwrap_or_default();
            format!("{a:.places$}\t{b}\t{}\n", if *aside { "yes" } else { "" })
        }).collect();
        let runtime = tokio::runtime::Runtime::new().unwrap();
        runtime.block_on(async {
            let bench = bench(&[paste(format!("L (m)\tt10 (s)\tset aside\n{lines}"))]);
            let before = texts(&bench.book(), 0, 2);
            for (count, format) in (1..).zip(["csv", "ods", "xlsx"]) {
                let (status, file) = bench.ask("GET", &format!("tables/1.{format}"), Vec::new()).await;
                assert_eq!(status, StatusCode::OK);
                let (status, answer) = bench.ask("POST", &format!("import?name=back.{format}"), file).await;
                assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&answer));
                let book = bench.book();
                let told: Value = serde_json::from_slice(&answer).unwrap();
                assert_eq!((&told["done"], &told["made"]["table"]), (&true.into(), &book.state().record.tables[count].id.into()));
                let after = texts(&book, count, 2);
                assert_eq!(after.len(), before.len());
                for (a, b) in before.iter().flatten().zip(after.iter().flatten()) {
                    // Spreadsheets keep numbers, not digits; CSV keeps both.
                    let number = |t: &String| t.replace('\u{2212}', "-").parse::<f64>().ok();
                    if format == "csv" { assert_eq!(a, b); } else { assert_eq!(number(a), number(b), "{format}"); }
                }
                let aside = |t: usize| book.state().record.tables[t].rows.iter().map(|r| r.aside).collect::<Vec<_>>();
                assert_eq!(aside(count), aside(0));
            }
        });
    }
}

/// Width, height and pixels that are no paper, of each picture of a document.
fn pictures_of(docx: Vec<u8>) -> Vec<(u32, u32, usize)> {
    let mut parts = zip::ZipArchive::new(Cursor::new(docx)).unwrap();
    let names: Vec<String> =
        parts.file_names().map(|n| n.unwrap().into_owned()).filter(|n| n.ends_with(".png")).collect();
    let read = names.into_iter().map(|name| {
        let mut bytes = Vec::new();
        parts.by_name(&name).unwrap().read_to_end(&mut bytes).unwrap();
        let picture = image::load_from_memory(&bytes).unwrap().to_rgb8();
        let drawn = picture.pixels().filter(|p| p.0.iter().any(|v| *v < 200)).count();
        (picture.width(), picture.height(), drawn)
    });
    read.collect()
}

#[tokio::test]
async fn a_picture_of_the_stage_goes_into_the_document_and_along_by_itself() {
    let take = WriteUpEdit::TakePicture { of: Taken::Run { run: 1, frame: 60 } };
    let bench = bench(&[Edit::Run(RunEdit::Run), Edit::WriteUp(take)]);
    let (status, whole) = bench.ask("GET", "runs/1/pictures/60.svg", Vec::new()).await;
    assert_eq!(status, StatusCode::OK);
    let whole = String::from_utf8(whole).unwrap();
    // The bob at frame 60 and a ring every tenth of a second before.
    let early = String::from_utf8(bench.ask("GET", "runs/1/pictures/20.svg", Vec::new()).await.1).unwrap();
    let discs = |svg: &str| svg.matches("<circle").count();
    assert_eq!(discs(&whole) - discs(&early), 4, "{whole}");
    for gone in ["runs/2/pictures/0.svg", "runs/1/pictures/0.gif", "runs/1/pictures/x.svg"] {
        assert_eq!(bench.ask("GET", gone, Vec::new()).await.0, StatusCode::NOT_FOUND, "{gone}");
    }
    let second = Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
    let time = |number| with_unit(number, &second);
    let page = String::from_utf8(bench.ask("GET", "write-up", Vec::new()).await.1).unwrap();
    assert!(
        page.contains(&whole) && page.contains(&format!("at t = {}; a ring every {}.", time("0.60"), time("0.10"))),
        "{page}"
    );
    let [(wide, high, drawn)] = pictures_of(bench.ask("GET", "write-up.docx", Vec::new()).await.1)[..] else {
        panic!("one picture")
    };
    assert!(wide == 1550 && high > 300 && drawn > 2000, "{wide} by {high}, {drawn}");
}

#[tokio::test]
async fn the_zip_is_a_data_package_and_brings_the_logbook_back() {
    let text =
        ColumnText { name: "period".into(), symbol: "T".into(), formula: "t10/10".into(), ..ColumnText::default() };
    let bench = bench(&[
        paste("L (m)\tt10 (s)\n0.300\t10.99\n0.600\t15.54\n0.900\t19.03".to_owned()),
        Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Worked, text }),
        Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(2) }),
        Edit::Record(RecordEdit::AddTable { name: "Größen, zweite".to_owned() }),
    ]);
    let (status, file) = bench.ask("GET", "logbook.zip", Vec::new()).await;
    assert_eq!(status, StatusCode::OK);
    let mut zip = zip::ZipArchive::new(Cursor::new(file.clone())).unwrap();
    let mut parts: BTreeMap<String, String> = BTreeMap::new();
    for i in 0..zip.len() {
        let mut part = zip.by_index(i).unwrap();
        let name = part.name().unwrap().into_owned();
        let mut bytes = Vec::new();
        part.read_to_end(&mut bytes).unwrap();
        // The document is a zip of its own.
        let text = if name.ends_with(".docx") {
            let mut inner = zip::ZipArchive::new(Cursor::new(bytes)).unwrap();
            let mut text = String::new();
            inner.by_name("word/document.xml").unwrap().read_to_string(&mut text).unwrap();
            assert!(inner.by_name("word/media/1.png").is_ok(), "the graph is a picture in it");
            text
        } else {
            String::from_utf8(bytes).unwrap()
        };
        parts.insert(name, text);
    }
    let document = &parts["write-up.docx"];
    for wanted in ["Table 1. ", "L, t10 measured; T calculated", "<w:tblHeader/>", "<m:oMath>", "Figure 1."] {
        assert!(document.contains(wanted), "{wanted} is not in the document");
    }
    let package: Value = serde_json::from_str(&parts["datapackage.json"]).unwrap();
    for resource in package["resources"].as_array().unwrap() {
        let path = resource["path"].as_str().unwrap();
        assert!(parts.contains_key(path), "{path} is missing");
        if resource["format"] == "csv" {
            let heads: Vec<&str> =
                resource["schema"]["fields"].as_array().unwrap().iter().map(|f| f["name"].as_str().unwrap()).collect();
            let mut reader = csv::Reader::from_reader(parts[path].as_bytes());
            assert_eq!(reader.headers().unwrap().iter().collect::<Vec<_>>(), heads);
        }
    }
    let fields = &package["resources"][0]["schema"]["fields"];
    assert_eq!((&fields[2]["formula"], &fields[2]["unit"]), (&"t10/10".into(), &"s".into()));
    assert!(parts["write-up.html"].contains("Table 1.") && parts["write-up.html"].contains("<svg"));
    // Nothing hidden goes along.
    assert!(parts.values().all(|t| !t.contains("9.810")));

    let before = texts(&bench.book(), 0, 3);
    let store = Store::open(bench.folder.path()).unwrap();
    crate::common::work(&store, bench.id, bench.student, &[Edit::Record(RecordEdit::DeleteColumn { column: 2 })]);
    drop(store);
    let other = self::bench(&[Edit::Record(RecordEdit::AddRow { table: 1, above: None })]);
    let (status, answer) = other.ask("POST", "import?name=pendulum.zip", file).await;
    assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&answer));
    assert_eq!(texts(&other.book(), 0, 3), before);
    assert_eq!(other.book().state().record.tables[1].name, "Größen, zweite");
}

#[tokio::test]
async fn files_that_cannot_be_read_change_nothing_and_say_why() {
    let bench = bench(&[]);
    let broken = [
        ("empty.csv", Vec::new(), "empty"),
        ("words.csv", b"L (m)\nlong\n".to_vec(), "Row 1 of the block"),
        ("broken.xlsx", b"PK\x03\x04 nothing".to_vec(), "cannot be read"),
        ("unit.csv", b"L (m//s)\n1\n".to_vec(), "L (m//s)"),
    ];
    for (name, bytes, reason) in broken {
        let (status, answer) = bench.ask("POST", &format!("import?name={name}&table=1"), bytes).await;
        let answer = String::from_utf8_lossy(&answer).into_owned();
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{name}: {answer}");
        assert!(answer.contains(reason), "{name}: {answer}");
    }
    assert_eq!(bench.book().seq(), 0);
}

#[tokio::test]
async fn spreadsheets_of_other_programs_are_read_cell_by_cell() {
    // Written by tools/reference/spreadsheets.py with openpyxl and odfpy; a formula without a stored value is an empty cell.
    let wanted = [
        ("openpyxl.xlsx", "L (m)|t (s)|ok\n0.1|1.25|true\n0.3||false\n0.0000001||späte & frühe|beside the table"),
        ("odfpy.ods", "L (m)|t (s)|share\n0.1|1.25|0.5\n0.30000000000000004||12\n0.30000000000000004||12\nspä te"),
    ];
    for (name, rows) in wanted {
        let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name);
        let read = zeitmass_web::read_table(name, &std::fs::read(path).unwrap()).unwrap();
        let cells: Vec<String> = read.lines().map(|l| l.trim_end_matches('\t').replace('\t', "|")).collect();
        assert_eq!(cells.join("\n"), rows, "{name}");
    }
}

/// A zip of parts, packed as well as can be.
fn zipped(parts: &[(&str, &str)]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, part) in parts {
        zip.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        std::io::Write::write_all(&mut zip, part.as_bytes()).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn xlsx(words: &str, cells: &str) -> Vec<u8> {
    zipped(&[
        ("xl/workbook.xml", r#"<workbook><sheets><sheet name="a" sheetId="1" r:id="r1"/></sheets></workbook>"#),
        (
            "xl/_rels/workbook.xml.rels",
            r#"<Relationships><Relationship Id="r1" Target="worksheets/1.xml"/></Relationships>"#,
        ),
        ("xl/sharedStrings.xml", words),
        ("xl/worksheets/1.xml", &format!("<worksheet><sheetData>{cells}</sheetData></worksheet>")),
    ])
}

#[tokio::test]
async fn a_small_file_that_says_it_is_huge_is_refused_with_a_reason() {
    let bench = bench(&[]);
    let ods = |rows: &str| zipped(&[("content.xml", &format!("<x><table:table>{rows}</table:table></x>"))]);
    let cell = r#"<table:table-cell office:value-type="float" office:value="1" table:number-columns-repeated="N"/>"#;
    let row = |rows: &str, columns: &str| {
        format!(
            r#"<table:table-row table:number-rows-repeated="{rows}">{}</table:table-row>"#,
            cell.replace('N', columns)
        )
    };
    let long = "7".repeat(60_000_000);
    let files = [
        (
            "corners.xlsx",
            xlsx("<sst/>", r#"<row><c r="A1"><v>1</v></c><c r="XFD1048576"><v>1</v></c></row>"#),
            "beyond row 20000",
        ),
        (
            "words.xlsx",
            xlsx(r#"<sst count="9" uniqueCount="999999999999999999"/>"#, r#"<row><c t="s"><v>7</v></c></row>"#),
            "a word that is not there",
        ),
        (
            "place.xlsx",
            xlsx("<sst/>", r#"<row><c r="A99999999999999999999"><v>1</v></c></row>"#),
            "a cell has no place",
        ),
        ("wide.ods", ods(&row("1", "999999999")), "beyond row 20000 or column 100"),
        ("tall.ods", ods(&row("999999999999", "2")), "beyond row 20000"),
        ("endless.ods", ods(&row("99999999999999999999999", "1")), "damaged"),
        ("bomb.xlsx", xlsx("<sst/>", &format!("<row><c><v>{long}</v></c></row>")), "too large"),
        ("bomb.ods", ods(&format!("<table:table-row><table:table-cell><text:p>{long}")), "too large"),
        ("full.ods", ods(&row("20000", "100").replace("\"1\"", "\"123456789.123456789\"")), "too large"),
        ("entity.ods", ods("<table:table-row><table:table-cell><text:p>&lol;</text:p>"), "&lol; is unknown"),
        ("other.zip", zipped(&[("readme.txt", "hello")]), "neither XLSX nor ODS"),
    ];
    for (name, file, reason) in files {
        assert!(file.len() < 100_000, "{name} is small");
        let (status, answer) = bench.ask("POST", &format!("import?name={name}"), file).await;
        let answer = String::from_utf8_lossy(&answer).into_owned();
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{name}: {answer}");
        assert!(answer.contains(reason), "{name}: {answer}");
    }
    assert_eq!(bench.book().seq(), 0);
}
