//! Templates are laid out by a formatter: one element a line, so that a change is seen where it is.

use std::fs;
use std::path::{Path, PathBuf};

use markup_fmt::config::{FormatOptions, LayoutOptions};
use markup_fmt::{Language, format_text};

/// Set to anything, it lets this test write what it finds.
const WRITE: &str = "FORMAT_TEMPLATES";

fn templates(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()) {
        if entry.is_dir() {
            templates(&entry, found);
        } else if entry.extension().is_some_and(|e| e == "html") {
            found.push(entry);
        }
    }
}

#[test]
fn templates_are_formatted() {
    let layout = LayoutOptions { print_width: 120, indent_width: 2, ..LayoutOptions::default() };
    let options = FormatOptions { layout, ..FormatOptions::default() };
    let mut found = Vec::new();
    templates(&Path::new(env!("CARGO_MANIFEST_DIR")).join("templates"), &mut found);
    assert!(found.len() > 50, "{found:?}");
    let mut otherwise = Vec::new();
    for path in found {
        let text = fs::read_to_string(&path).unwrap();
        let formatted = format_text(&text, Language::Jinja, &options, |code, _| Ok(code.into()))
            .unwrap_or_else(|e| panic!("{}: {e:?}", path.display()));
        if formatted != text {
            if std::env::var_os(WRITE).is_some() {
                fs::write(&path, formatted).unwrap();
            }
            otherwise.push(path);
        }
    }
    assert!(
        otherwise.is_empty() || std::env::var_os(WRITE).is_some(),
        "{otherwise:#?} are laid out differently. {WRITE}=1 cargo test -p zeitmass-web templates puts them right."
    );
}
