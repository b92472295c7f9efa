//! The readers of `crates/web/tests/readers`, driven by coverage. Which one is said by `ZEITMASS_READER`; `fuzz/run` starts it.

#![no_main]

#[path = "../../crates/web/tests/readers/targets.rs"]
mod targets;

use std::sync::OnceLock;

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    static READ: OnceLock<targets::Reader> = OnceLock::new();
    let read = READ.get_or_init(|| {
        let name = std::env::var("ZEITMASS_READER").unwrap_or_default();
        let found = targets::READERS.iter().find(|(reader, _)| *reader == name);
        found.unwrap_or_else(|| panic!("ZEITMASS_READER is none of the readers: {name:?}")).1
    });
    read(bytes);
});
