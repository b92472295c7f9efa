//! The write-up as a document: WordprocessingML (ISO/IEC 29500-1) with tables as tables, graphs as pictures, and formulas as Office MathML.
//!
//! Written directly: the library for such files at hand has neither heads of tables that repeat on every page nor formulas.

use std::fmt::Write as _;
use std::io::{Cursor, Write};

use quick_xml::Reader;
use quick_xml::events::Event;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use crate::draw;
use crate::error::WebError;
use crate::notation::{escape, without_marks};
use crate::views::{
    AnswerWords, ClaimView, Content, Figure, PictureShown, ResultView, TermView, WriteUp, Written, WrittenModel,
    WrittenPicture, WrittenTable,
};

/// Width of pictures in English metric units, of which a centimetre has 360 000.
const PICTURE: u64 = 15 * 360_000;

const TYPES: &str = r#"<?xml version="1.0" encoding="UTF-8" standalone="yes"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Default Extension="png" ContentType="image/png"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/><Override PartName="/word/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.styles+xml"/></Types>"#;
const RELATIONS: &str = r#"<?xml version="1.0" encoding="UTF-8" standalone="yes"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>"#;
const STYLES: &str = r#"<?xml version="1.0" encoding="UTF-8" standalone="yes"?><w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="Liberation Sans" w:hAnsi="Liberation Sans" w:cs="Liberation Sans"/><w:sz w:val="22"/><w:lang w:val="en-GB"/></w:rPr></w:rPrDefault><w:pPrDefault><w:pPr><w:spacing w:after="120" w:line="276" w:lineRule="auto"/></w:pPr></w:pPrDefault></w:docDefaults><w:style w:type="paragraph" w:default="1" w:styleId="Normal"><w:name w:val="Normal"/></w:style><w:style w:type="paragraph" w:styleId="Title"><w:name w:val="Title"/><w:basedOn w:val="Normal"/><w:rPr><w:b/><w:sz w:val="36"/></w:rPr></w:style><w:style w:type="paragraph" w:styleId="Heading1"><w:name w:val="heading 1"/><w:basedOn w:val="Normal"/><w:next w:val="Normal"/><w:pPr><w:keepNext/><w:spacing w:before="280" w:after="100"/><w:outlineLvl w:val="0"/></w:pPr><w:rPr><w:b/><w:sz w:val="26"/></w:rPr></w:style><w:style w:type="paragraph" w:styleId="Caption"><w:name w:val="caption"/><w:basedOn w:val="Normal"/><w:pPr><w:keepLines/></w:pPr><w:rPr><w:sz w:val="20"/></w:rPr></w:style><w:style w:type="paragraph" w:styleId="Cell"><w:name w:val="Cell"/><w:basedOn w:val="Normal"/><w:pPr><w:spacing w:after="0" w:line="240" w:lineRule="auto"/><w:jc w:val="right"/></w:pPr><w:rPr><w:sz w:val="19"/></w:rPr></w:style></w:styles>"#;

/// The document. A picture that cannot be drawn is left out, its caption stays.
///
/// # Errors
/// [`WebError::Broken`] when it cannot be packed.
pub(crate) fn docx(w: &WriteUp) -> Result<Vec<u8>, WebError> {
    let mut body = Body::default();
    body.paragraph("Title", &run(&format!("{} {}", w.number, w.title), ""));
    let state = if w.handed_in { "" } else { " · not handed in" };
    body.paragraph("Normal", &run(&format!("{} · {}{state}", w.people, w.class), ""));
    if !w.brought.is_empty() {
        body.paragraph("Normal", &run(&format!("Imported from a file and not checked: {}.", w.brought), ""));
    }
    for block in &w.blocks {
        if !block.heading.is_empty() {
            body.paragraph("Heading1", &run(block.heading, ""));
        }
        body.typed(&block.intro);
        match &block.content {
            Content::Prose(html) => body.html("Normal", html),
            Content::Held(words) => body.paragraph("Normal", &run(&format!("Held in all trials: {words}."), "")),
            Content::Forecast(f) => body.forecast(f),
            Content::Table(table) => body.table(table),
            Content::Figure(figure) => body.figure(figure),
            Content::Result(r) => body.result(r),
            Content::Model(m) => body.model(m),
            Content::Picture(p) => body.stage(p),
            Content::Claim(c) => body.claim(c),
            Content::Typed(text) => body.typed(if text.trim().is_empty() { "Not written yet." } else { text }),
            Content::Answers(answers) => body.answers(answers),
        }
    }
    body.pack().map_err(|e| {
        tracing::error!("a document could not be packed: {e}");
        WebError::Broken
    })
}

/// What each kind of block says.
impl Body {
    /// What was forecast, and what came out.
    fn forecast(&mut self, f: &Written) {
        let found = f.found.as_ref().map_or("", |r| r.text.as_str());
        self.typed(&format!("{} {found}", f.hypothesis));
        let asked = [f.question.as_str(), f.prediction.as_str(), f.outcome.as_str()];
        self.typed(&asked.into_iter().filter(|t| !t.is_empty()).collect::<Vec<_>>().join(" · "));
        self.typed(&f.difference);
        for curve in &f.curves {
            self.picture(draw::picture(&curve.svg), &format!("The {}", curve.name));
            let remarks: Vec<&str> = curve.remarks.iter().map(|r| r.text.as_str()).collect();
            self.paragraph("Caption", &run(&format!("The {}. {}", curve.name, remarks.join(" ")), ""));
        }
    }

    /// A graph with what its curve says.
    fn figure(&mut self, figure: &Figure) {
        self.picture(draw::picture(&figure.svg), &format!("Figure {}", figure.number));
        let caption = format!("Figure {}. {}", figure.number, figure.sentences.join(" "));
        self.html("Caption", &caption);
        if figure.number == 1 {
            self.typed(&figure.intercept);
        }
    }

    /// A result, with the law under the line and what it is compared with.
    fn result(&mut self, r: &ResultView) {
        if r.value.is_empty() {
            self.typed(&format!("{}: not found yet.", r.name));
        } else {
            if r.is_line() && !r.law.is_empty() {
                let row = |of: fn(&TermView) -> &str| {
                    let cells = r.terms.iter().flat_map(|t| [t.sign, of(t)].map(without_marks));
                    cells.skip(1).collect::<Vec<_>>()
                };
                self.cells(&[], &[(row(|t| &t.line), false), (row(|t| &t.text), false)]);
            }
            let law = if r.law.is_empty() {
                format!("{}: ", escape(&r.name))
            } else {
                let of = if r.kind == "model" { "parameter of the model" } else { "slope" };
                format!("The {of} means {}. This gives ", r.law)
            };
            self.html("Normal", &format!("{law}<strong>{}</strong>.", r.value));
            r.steady.iter().for_each(|s| self.typed(s));
            if !r.accepted.is_empty() {
                let source = if r.source.is_empty() { String::new() } else { format!(" ({})", r.source) };
                self.typed(&format!("Accepted value: {}{source}.", r.accepted));
            }
            r.verdict.iter().for_each(|s| self.typed(s));
        }
        if !r.groups.is_empty() {
            let head = ["group", "value", "accepted", "percent error"].map(str::to_owned);
            self.cells(&[head.to_vec()], &r.groups.iter().map(|g| (g.to_vec(), false)).collect::<Vec<_>>());
        }
    }

    /// The step model beside the data.
    fn model(&mut self, m: &WrittenModel) {
        for svg in &m.svgs {
            self.picture(draw::picture(svg), &format!("Figure {}", m.number));
        }
        self.html("Caption", &escape(&format!("Figure {}. {}", m.number, m.sentences.join(" "))));
        let head = ["Model", "What changed", "distance", "in u"].map(str::to_owned);
        self.cells(&[head.to_vec()], &m.rows.iter().map(|r| (r.to_vec(), false)).collect::<Vec<_>>());
    }

    /// A picture of the stage.
    fn stage(&mut self, p: &WrittenPicture) {
        let words = format!("Figure {}. {}", p.number, p.caption);
        match &p.shown {
            Some(PictureShown::Drawn(svg)) => self.picture(draw::picture(svg), &words),
            Some(PictureShown::Photo(jpeg)) => self.picture(png_of(jpeg), &words),
            None => {}
        }
        self.paragraph("Caption", &run(&words, ""));
    }

    /// The claim with its evidence.
    fn claim(&mut self, c: &ClaimView) {
        self.html("Normal", &format!("<strong>{}</strong>", escape(&c.sentence)));
        let rows: Vec<String> = c.rows.iter().map(|(_, n, words)| format!("row {n} ({words})")).collect();
        if !rows.is_empty() {
            self.typed(&format!("Evidence: {}.", rows.join("; ")));
        }
        c.findings.iter().for_each(|f| self.typed(&f.text));
    }

    /// The questions of the sheet with their answers.
    fn answers(&mut self, answers: &[AnswerWords]) {
        for a in answers {
            let ask = a.ask.trim_start().strip_prefix("<p>").unwrap_or(&a.ask);
            self.html("Normal", &format!("<p><strong>{}.</strong> {ask}", a.number));
            self.html("Normal", &a.argument);
            let open = a.answer.is_empty() && a.evidence.is_empty();
            if open {
                self.typed("Not answered.");
            }
            a.answer.lines().for_each(|line| self.html("Normal", line));
            self.typed(&a.evidence.join("; "));
        }
    }
}

/// A photograph as PNG; nothing where it cannot be read.
fn png_of(jpeg: &[u8]) -> Option<Vec<u8>> {
    let mut png = Cursor::new(Vec::new());
    image::load_from_memory(jpeg).ok()?.write_to(&mut png, image::ImageFormat::Png).ok()?;
    Some(png.into_inner())
}

/// A run of text with run properties.
fn run(text: &str, properties: &str) -> String {
    if text.is_empty() {
        return String::new();
    }
    let properties = if properties.is_empty() { String::new() } else { format!("<w:rPr>{properties}</w:rPr>") };
    format!("<w:r>{properties}<w:t xml:space=\"preserve\">{}</w:t></w:r>", clean(text))
}

/// Text that XML can hold: control characters have no place in it.
fn clean(text: &str) -> String {
    let plain: String = text.chars().filter(|c| !c.is_control() || matches!(c, '\t' | '\n')).collect();
    escape(&plain)
}

#[derive(Default)]
struct Body {
    xml: String,
    pictures: Vec<Vec<u8>>,
}

impl Body {
    fn paragraph(&mut self, style: &str, runs: &str) {
        if !runs.is_empty() {
            let _ = write!(self.xml, "<w:p><w:pPr><w:pStyle w:val=\"{style}\"/></w:pPr>{runs}</w:p>");
        }
    }

    /// Text as it was typed: a paragraph a line.
    fn typed(&mut self, text: &str) {
        for line in text.lines().map(str::trim).filter(|l| !l.is_empty()) {
            self.paragraph("Normal", &run(line, ""));
        }
    }

    /// HTML of the program's own making.
    fn html(&mut self, style: &str, html: &str) {
        for runs in paragraphs(html) {
            self.paragraph(style, &runs);
        }
    }

    fn picture(&mut self, png: Option<Vec<u8>>, words: &str) {
        let Some(png) = png else { return };
        // Width and height stand in the first chunk of the file (ISO/IEC 15948, 11.2.2).
        let side = |at: usize| {
            png.get(at..at + 4).map_or(1, |b| u64::from(u32::from_be_bytes([b[0], b[1], b[2], b[3]])).max(1))
        };
        let height = PICTURE * side(20) / side(16);
        self.pictures.push(png);
        let n = self.pictures.len();
        let _ = write!(
            self.xml,
            "<w:p><w:pPr><w:keepNext/></w:pPr><w:r><w:drawing><wp:inline distT=\"0\" distB=\"0\" distL=\"0\" distR=\"0\"><wp:extent cx=\"{PICTURE}\" cy=\"{height}\"/><wp:docPr id=\"{n}\" name=\"Picture {n}\" descr=\"{}\"/><a:graphic><a:graphicData uri=\"http://schemas.openxmlformats.org/drawingml/2006/picture\"><pic:pic><pic:nvPicPr><pic:cNvPr id=\"{n}\" name=\"{n}.png\"/><pic:cNvPicPr/></pic:nvPicPr><pic:blipFill><a:blip r:embed=\"rIdP{n}\"/><a:stretch><a:fillRect/></a:stretch></pic:blipFill><pic:spPr><a:xfrm><a:off x=\"0\" y=\"0\"/><a:ext cx=\"{PICTURE}\" cy=\"{height}\"/></a:xfrm><a:prstGeom prst=\"rect\"><a:avLst/></a:prstGeom></pic:spPr></pic:pic></a:graphicData></a:graphic></wp:inline></w:drawing></w:r></w:p>",
            clean(words)
        );
    }

    fn table(&mut self, table: &WrittenTable) {
        let sources = if table.sources.is_empty() { String::new() } else { format!(": {}", table.sources) };
        let left = if table.left_out > 0 {
            format!("; {} further rows are in the file", table.left_out)
        } else {
            String::new()
        };
        let caption = run(&format!("Table {}. {}{sources}{left}", table.number, table.name), "");
        let _ = write!(self.xml, "<w:p><w:pPr><w:pStyle w:val=\"Caption\"/><w:keepNext/></w:pPr>{caption}</w:p>");
        let head = |c: &crate::views::ColumnHead| {
            let formula = if c.formula.is_empty() { String::new() } else { format!(" = {}", c.formula) };
            let unit = if c.unit.is_empty() { String::new() } else { format!(" ({})", c.unit) };
            format!("{} {}{formula}{unit}", c.name, c.symbol)
        };
        let heads = std::iter::once("No.".to_owned()).chain(table.columns.iter().map(head)).collect();
        let rows = table.rows.iter().map(|row| {
            let cells = row.cells.iter().map(|c| c.text.clone());
            (std::iter::once(row.number.clone()).chain(cells).collect(), row.aside)
        });
        self.cells(&[heads], &rows.collect::<Vec<_>>());
        for row in table.rows.iter().filter(|r| !r.why.is_empty()) {
            self.typed(&format!("Row {} set aside: {}.", row.number, row.why));
        }
    }

    /// A table: rows of heads, which repeat on every page, and rows of cells, struck through where they are set aside.
    fn cells(&mut self, heads: &[Vec<String>], rows: &[(Vec<String>, bool)]) {
        self.xml.push_str("<w:tbl><w:tblPr><w:tblW w:w=\"0\" w:type=\"auto\"/><w:tblBorders><w:top w:val=\"single\" w:sz=\"8\" w:color=\"000000\"/><w:bottom w:val=\"single\" w:sz=\"8\" w:color=\"000000\"/><w:insideH w:val=\"single\" w:sz=\"2\" w:color=\"999999\"/></w:tblBorders><w:tblCellMar><w:left w:w=\"100\" w:type=\"dxa\"/><w:right w:w=\"100\" w:type=\"dxa\"/></w:tblCellMar></w:tblPr><w:tblGrid>");
        let wide = heads.iter().chain(rows.iter().map(|(r, _)| r)).map(Vec::len).max().unwrap_or(0);
        self.xml.push_str(&"<w:gridCol/>".repeat(wide));
        self.xml.push_str("</w:tblGrid>");
        let heads = heads.iter().map(|cells| (cells, "<w:tblHeader/>", "<w:b/>"));
        let rows = rows.iter().map(|(cells, aside)| (cells, "", if *aside { "<w:strike/>" } else { "" }));
        for (cells, property, look) in heads.chain(rows) {
            let _ = write!(self.xml, "<w:tr><w:trPr><w:cantSplit/>{property}</w:trPr>");
            for text in cells {
                let _ = write!(
                    self.xml,
                    "<w:tc><w:tcPr><w:tcW w:w=\"0\" w:type=\"auto\"/></w:tcPr><w:p><w:pPr><w:pStyle w:val=\"Cell\"/></w:pPr>{}</w:p></w:tc>",
                    run(text, look)
                );
            }
            self.xml.push_str("</w:tr>");
        }
        self.xml.push_str("</w:tbl><w:p/>");
    }

    fn pack(self) -> Result<Vec<u8>, Box<dyn std::error::Error + Send + Sync>> {
        let document = format!(
            "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?><w:document xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\" xmlns:m=\"http://schemas.openxmlformats.org/officeDocument/2006/math\" xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\" xmlns:wp=\"http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing\" xmlns:a=\"http://schemas.openxmlformats.org/drawingml/2006/main\" xmlns:pic=\"http://schemas.openxmlformats.org/drawingml/2006/picture\"><w:body>{}<w:sectPr><w:pgSz w:w=\"11906\" w:h=\"16838\"/><w:pgMar w:top=\"1134\" w:right=\"1134\" w:bottom=\"1134\" w:left=\"1134\" w:header=\"567\" w:footer=\"567\" w:gutter=\"0\"/></w:sectPr></w:body></w:document>",
            self.xml
        );
        let mut relations = String::from(
            "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?><Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rIdS\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles\" Target=\"styles.xml\"/>",
        );
        for n in 1..=self.pictures.len() {
            let _ = write!(
                relations,
                "<Relationship Id=\"rIdP{n}\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/image\" Target=\"media/{n}.png\"/>"
            );
        }
        relations.push_str("</Relationships>");
        let mut files: Vec<(String, Vec<u8>)> = [
            ("[Content_Types].xml", TYPES),
            ("_rels/.rels", RELATIONS),
            ("word/document.xml", &document),
            ("word/_rels/document.xml.rels", &relations),
            ("word/styles.xml", STYLES),
        ]
        .map(|(name, text)| (name.to_owned(), text.as_bytes().to_vec()))
        .into();
        files.extend(self.pictures.into_iter().zip(1..).map(|(png, n)| (format!("word/media/{n}.png"), png)));
        let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
        let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
        for (name, content) in files {
            zip.start_file(name, options)?;
            zip.write_all(&content)?;
        }
        Ok(zip.finish()?.into_inner())
    }
}

/// An element of a fragment, with its text.
enum Piece {
    Text(String),
    Element(String, Vec<Piece>),
}

/// The pieces of a fragment of the program's own HTML and MathML. What is not well-formed ends it.
fn pieces(html: &str) -> Vec<Piece> {
    let mut reader = Reader::from_str(html);
    let config = reader.config_mut();
    (config.check_end_names, config.allow_unmatched_ends, config.allow_dangling_amp) = (false, true, true);
    let mut open: Vec<(String, Vec<Piece>)> = vec![(String::new(), Vec::new())];
    let add = |open: &mut Vec<(String, Vec<Piece>)>, piece: Piece| {
        if let Some((_, inside)) = open.last_mut() {
            inside.push(piece);
        }
    };
    loop {
        match reader.read_event() {
            Ok(Event::Start(e)) => open.push((e.name().as_ref().to_owned(), Vec::new())),
            Ok(Event::Empty(e)) => {
                let name = e.name().as_ref().to_owned();
                add(&mut open, Piece::Element(name, Vec::new()));
            }
            Ok(Event::End(_)) if open.len() > 1 => {
                if let Some((name, inside)) = open.pop() {
                    add(&mut open, Piece::Element(name, inside));
                }
            }
            Ok(Event::Text(text)) => add(&mut open, Piece::Text(text.to_string())),
            Ok(Event::GeneralRef(name)) => {
                let text = match &*name {
                    "nbsp" => "\u{A0}".to_owned(),
                    _ => super::spreadsheet::referred(&name).unwrap_or_default(),
                };
                add(&mut open, Piece::Text(text));
            }
            Ok(Event::Eof) | Err(_) => break,
            Ok(_) => {}
        }
    }
    while open.len() > 1 {
        if let Some((name, inside)) = open.pop() {
            add(&mut open, Piece::Element(name, inside));
        }
    }
    open.pop().map(|(_, inside)| inside).unwrap_or_default()
}

/// Paragraphs of a fragment, each as runs.
fn paragraphs(html: &str) -> Vec<String> {
    let mut all = vec![String::new()];
    inline(&pieces(html), "", &mut all);
    all.retain(|p| !p.trim().is_empty());
    all
}

fn inline(pieces: &[Piece], look: &str, all: &mut Vec<String>) {
    let put = |all: &mut Vec<String>, xml: &str| {
        if let Some(last) = all.last_mut() {
            last.push_str(xml);
        }
    };
    for piece in pieces {
        match piece {
            Piece::Text(text) => {
                let text = text.replace('\n', " ");
                let starts = all.last().is_none_or(String::is_empty);
                let text = if starts { text.trim_start() } else { &text };
                put(all, &run(text, look));
            }
            Piece::Element(name, inside) => {
                let with = |more: &str| format!("{look}{more}");
                match name.as_str() {
                    "math" => put(all, &format!("<m:oMath>{}</m:oMath>", formula(inside))),
                    "strong" | "b" | "th" => inline(inside, &with("<w:b/>"), all),
                    "em" | "i" => inline(inside, &with("<w:i/>"), all),
                    "sup" => inline(inside, &with("<w:vertAlign w:val=\"superscript\"/>"), all),
                    "sub" => inline(inside, &with("<w:vertAlign w:val=\"subscript\"/>"), all),
                    "p" | "li" | "blockquote" | "div" | "tr" | "h1" | "h2" | "h3" | "h4" => {
                        all.push(if name == "li" { run("– ", "") } else { String::new() });
                        inline(inside, look, all);
                        all.push(String::new());
                    }
                    _ => inline(inside, look, all),
                }
            }
        }
    }
}

/// MathML Core (<https://www.w3.org/TR/mathml-core/>) as Office MathML (ISO/IEC 29500-1, 22.1).
fn formula(pieces: &[Piece]) -> String {
    pieces.iter().map(term).collect()
}

fn term(piece: &Piece) -> String {
    let Piece::Element(name, inside) = piece else { return String::new() };
    let elements: Vec<&Piece> = inside.iter().filter(|p| matches!(p, Piece::Element(..))).collect();
    let part = |tag: &str, place: usize| {
        let inner = elements.get(place).map(|p| term(p)).unwrap_or_default();
        format!("<m:{tag}>{inner}</m:{tag}>")
    };
    match name.as_str() {
        "mi" | "mn" | "mo" | "mtext" | "ms" => {
            let text = words(inside);
            // Several letters are a function or a unit, and stand upright.
            let upright = name != "mi" || text.chars().count() > 1;
            let style = if upright { "<m:rPr><m:sty m:val=\"p\"/></m:rPr>" } else { "" };
            format!("<m:r>{style}<m:t xml:space=\"preserve\">{}</m:t></m:r>", clean(&text))
        }
        "mspace" => "<m:r><m:t xml:space=\"preserve\"> </m:t></m:r>".to_owned(),
        "mfrac" => format!("<m:f>{}{}</m:f>", part("num", 0), part("den", 1)),
        "msqrt" => {
            format!("<m:rad><m:radPr><m:degHide m:val=\"1\"/></m:radPr><m:deg/><m:e>{}</m:e></m:rad>", formula(inside))
        }
        "mroot" => format!("<m:rad>{}{}</m:rad>", part("deg", 1), part("e", 0)),
        "msup" => format!("<m:sSup>{}{}</m:sSup>", part("e", 0), part("sup", 1)),
        "msub" => format!("<m:sSub>{}{}</m:sSub>", part("e", 0), part("sub", 1)),
        "msubsup" => format!("<m:sSubSup>{}{}{}</m:sSubSup>", part("e", 0), part("sub", 1), part("sup", 2)),
        "munder" | "mover" | "munderover" => elements.first().map(|p| term(p)).unwrap_or_default(),
        "annotation" | "annotation-xml" => String::new(),
        _ => formula(inside),
    }
}

fn words(pieces: &[Piece]) -> String {
    let one = |piece: &Piece| match piece {
        Piece::Text(text) => text.clone(),
        Piece::Element(_, inside) => words(inside),
    };
    pieces.iter().map(one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::markdown;
    use proptest::prelude::*;

    #[test]
    fn formulas_of_sheets_become_formulas_of_the_document() {
        let all = paragraphs(&markdown(
            "The period is\n\n$$T = 2\\pi \\sqrt{\\frac{L}{g}}$$\n\nso that $T^2$ *rises* with $L_1$ & is < 3.",
        ));
        let text = all.join("|");
        for wanted in ["<m:f><m:num>", "<m:rad>", "<m:sSup>", "<m:sSub>", "<w:i/>", "&amp;", "&lt;"] {
            assert!(text.contains(wanted), "{wanted}: {text}");
        }
        assert!(!text.contains("\\sqrt"), "the source of a formula is not shown beside it: {text}");
        assert_eq!(all.len(), 3, "{all:?}");
    }

    proptest! {
        #[test]
        fn whatever_is_typed_makes_well_formed_paragraphs(text in "\\PC{0,60}|[<>&;a-z/$^_{}\\\\]{0,40}|[\u{0}-\u{20}a<&]{0,20}") {
            let mut body = Body::default();
            body.typed(&text);
            body.html("Normal", &markdown(&text));
            body.cells(&[vec![text.clone()]], &[(vec![text.clone()], true)]);
            let whole = format!("<r xmlns:w=\"w\" xmlns:m=\"m\">{}</r>", body.xml);
            let mut reader = Reader::from_str(&whole);
            let mut depth = 0_i32;
            loop {
                match reader.read_event() {
                    Ok(Event::Start(_)) => depth += 1,
                    Ok(Event::End(_)) => depth -= 1,
                    Ok(Event::Eof) => break,
                    Ok(_) => {}
                    Err(e) => prop_assert!(false, "{e}: {whole}"),
                }
            }
            prop_assert_eq!(depth, 0);
        }
    }
}
