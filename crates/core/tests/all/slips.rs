//! Slips planted in the logbooks of careful students, and how many of them are found; and how often a clean logbook is said to have one.
//! ZEITMASS_SLIPS says how many clean logbooks there are and how many slips of each kind; `tools/truth` asks for a thousand and forty.

use std::collections::BTreeMap;

use rand::rngs::StdRng;
use rand::seq::IndexedRandom;
use rand::{RngExt, SeedableRng};
use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::{Edit, Logbook, RecordEdit, RowAt, RunEdit, SlipKind};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::rigs::SettingValue;

use crate::common::{done, tell};
use crate::labs::{carried_out, conclude, measured};
use crate::ways::{Way, ways};

type Worked = Vec<(String, String)>;

/// A kind of slip and how it is planted; nothing where it cannot be in this lab.
struct Plant {
    name: &'static str,
    kinds: &'static [SlipKind],
    by: fn(&Way, u64, &mut StdRng) -> Option<Logbook>,
}

fn worked(way: &Way) -> Worked {
    way.worked.iter().map(|(s, f)| ((*s).to_owned(), (*f).to_owned())).collect()
}

/// The same lab with another law.
fn with_law(way: &Way, seed: u64, law: impl Fn(&str) -> Option<String>) -> Option<Logbook> {
    if way.slope.is_empty() {
        return None;
    }
    let law = law(way.slope)?;
    let mut book = measured(way, seed, &mut |_, _| {});
    conclude(&mut book, &worked(way), way.axes, &law);
    Some(book)
}

fn times(way: &Way, seed: u64, random: &mut StdRng, factor: &str) -> Option<Logbook> {
    let over = random.random_bool(0.5);
    with_law(way, seed, |law| Some(if over { format!("({law})/({factor})") } else { format!("({law})*({factor})") }))
}

/// The same lab with another formula in a worked column.
fn with_formula(way: &Way, seed: u64, change: impl Fn(&str) -> Option<String>) -> Option<Logbook> {
    let mut all = worked(way);
    let place = all.iter().position(|(_, f)| change(f).is_some())?;
    all[place].1 = change(&all[place].1)?;
    let mut book = measured(way, seed, &mut |_, _| {});
    conclude(&mut book, &all, way.axes, way.slope);
    Some(book)
}

/// A reading that somebody copied by hand, wrongly.
fn mistyped(
    way: &Way,
    seed: u64,
    random: &mut StdRng,
    wrong: impl Fn(&str, &mut StdRng) -> Option<String>,
) -> Option<Logbook> {
    let mut book = carried_out(way, seed);
    let analysis = book.analyse();
    // Among points in a line one is out of it; a mean has no line.
    let graph = analysis.graph(1)?;
    graph.first_fit()?;
    let table = book.state().record.tables[0].clone();
    let read: Vec<u32> = table.columns.iter().filter(|c| c.kind == ColumnKind::Read).map(|c| c.id).collect();
    for _ in 0..40 {
        let (row, column) = (table.rows.choose(random)?, *read.choose(random)?);
        let Some(reading) = row.cells.get(&column) else { continue };
        let text = reading.number.as_str().to_owned();
        let Some(typed) = wrong(&text, random) else { continue };
        // A digit moved across the sign of a power makes no number; nobody types one there.
        let (Ok(now), Ok(before)) = (typed.parse::<f64>(), text.parse::<f64>()) else { continue };
        if (now / before - 1.0).abs() < 0.08 || before == 0.0 {
            continue;
        }
        let was = Some(reading.number.clone());
        done(&mut book, Edit::Record(RecordEdit::TypeCell { row: RowAt::There(row.id), column, typed, was }));
        return Some(book);
    }
    None
}

fn digits(text: &str) -> Vec<usize> {
    text.bytes().enumerate().filter(|(_, b)| b.is_ascii_digit()).map(|(i, _)| i).collect()
}

#[expect(clippy::too_many_lines, reason = "a list, one mistake after the other")]
fn plants() -> Vec<Plant> {
    use SlipKind as K;
    vec![
        Plant { name: "factor 2 in the law", kinds: &[K::Two], by: |w, s, r| times(w, s, r, "2") },
        Plant { name: "factor 4 in the law", kinds: &[K::Four], by: |w, s, r| times(w, s, r, "4") },
        Plant { name: "π in the law", kinds: &[K::Pi], by: |w, s, r| times(w, s, r, "pi") },
        Plant {
            name: "π² left out",
            kinds: &[K::PiSquared],
            by: |w, s, _| with_law(w, s, |law| law.contains("pi^2").then(|| law.replace("*pi^2", ""))),
        },
        Plant {
            name: "2π not squared",
            kinds: &[K::TwoPi],
            by: |w, s, _| with_law(w, s, |law| law.contains("4*pi^2").then(|| law.replace("4*pi^2", "2*pi"))),
        },
        Plant { name: "power of ten: 10", kinds: &[K::PowerOfTen], by: |w, s, r| times(w, s, r, "10") },
        Plant { name: "power of ten: cm for m", kinds: &[K::PowerOfTen], by: |w, s, r| times(w, s, r, "100") },
        Plant { name: "power of ten: g for kg", kinds: &[K::PowerOfTen], by: |w, s, r| times(w, s, r, "1000") },
        Plant { name: "minutes for seconds", kinds: &[K::Sixty], by: |w, s, r| times(w, s, r, "60") },
        Plant { name: "km/h for m/s", kinds: &[K::KilometresPerHour], by: |w, s, r| times(w, s, r, "3.6") },
        Plant { name: "degrees for radians", kinds: &[K::Degrees], by: |w, s, r| times(w, s, r, "180/pi") },
        Plant {
            name: "radius for diameter",
            kinds: &[K::Radius],
            by: |w, s, _| with_formula(w, s, |f| (f == "d^2").then(|| "(d/2)^2".to_owned())),
        },
        Plant {
            name: "surface for cross-section",
            kinds: &[K::CrossSection],
            by: |w, s, _| with_formula(w, s, |f| f.starts_with("4/(pi").then(|| f.replacen("4/", "1/", 1))),
        },
        Plant {
            name: "round trip not halved",
            kinds: &[K::RoundTrip],
            by: |w, s, _| with_formula(w, s, |f| f.starts_with("[c]").then(|| f.trim_end_matches("/2").to_owned())),
        },
        Plant {
            name: "mean velocity for final",
            kinds: &[K::MeanVelocity],
            by: |way, seed, _| {
                let way_there =
                    way.worked.iter().find_map(|(s, f)| Some((*s, f.strip_prefix("2*")?.strip_suffix("/t^2")?)))?;
                let (symbol, distance) = way_there;
                let mut all: Worked =
                    vec![("v_e".to_owned(), format!("{distance}/t")), (symbol.to_owned(), "v_e/t".to_owned())];
                all.extend(worked(way).into_iter().filter(|(s, _)| s != symbol));
                let mut book = measured(way, seed, &mut |_, _| {});
                conclude(&mut book, &all, way.axes, way.slope);
                Some(book)
            },
        },
        Plant {
            name: "one mass for the product",
            kinds: &[K::Product],
            by: |w, s, _| {
                with_formula(w, s, |f| {
                    if f.contains("m_1*m_2") {
                        Some(f.replace("m_1*m_2", "m_1"))
                    } else {
                        f.strip_prefix("m_1*").map(str::to_owned)
                    }
                })
            },
        },
        Plant {
            name: "T for T²",
            kinds: &[K::Square],
            by: |w, s, _| {
                with_formula(w, s, |f| {
                    if f.starts_with('(') {
                        f.strip_suffix("^2").map(str::to_owned)
                    } else {
                        f.strip_suffix("^2").filter(|b| b.chars().all(char::is_alphanumeric)).map(str::to_owned)
                    }
                })
            },
        },
        Plant {
            name: "axes swapped",
            kinds: &[K::Inverted],
            by: |way, seed, _| {
                if way.slope.is_empty() {
                    return None;
                }
                let mut book = measured(way, seed, &mut |_, _| {});
                conclude(&mut book, &worked(way), [way.axes[1], way.axes[0]], way.slope);
                Some(book)
            },
        },
        Plant {
            name: "a sign lost",
            kinds: &[K::Sign],
            by: |way, seed, _| {
                if way.slope.is_empty() {
                    with_formula(way, seed, |f| f.contains('±').then(|| f.replace('±', "∓")))
                } else {
                    with_law(way, seed, |law| Some(format!("-({law})")))
                }
            },
        },
        Plant {
            name: "two digits swapped",
            kinds: &[K::SwappedDigits],
            by: |w, s, r| {
                mistyped(w, s, r, |text, r| {
                    let places = digits(text);
                    let pairs: Vec<_> =
                        places.windows(2).filter(|p| text.as_bytes()[p[0]] != text.as_bytes()[p[1]]).collect();
                    let pair = pairs.choose(r)?;
                    let mut bytes = text.as_bytes().to_vec();
                    bytes.swap(pair[0], pair[1]);
                    String::from_utf8(bytes).ok()
                })
            },
        },
        Plant {
            name: "a digit lost",
            kinds: &[K::LostDigit],
            by: |w, s, r| {
                mistyped(w, s, r, |text, r| {
                    let places = digits(text);
                    let mut typed = text.to_owned();
                    (places.len() > 2).then(|| typed.remove(*places.choose(r).unwrap()))?;
                    Some(typed)
                })
            },
        },
        Plant {
            name: "a digit doubled",
            kinds: &[K::DoubledDigit],
            by: |w, s, r| {
                mistyped(w, s, r, |text, r| {
                    let place = *digits(text).choose(r)?;
                    let mut typed = text.to_owned();
                    typed.insert(place, text.as_bytes()[place] as char);
                    Some(typed)
                })
            },
        },
        Plant {
            name: "the point moved",
            kinds: &[K::MovedPoint],
            by: |w, s, r| {
                mistyped(w, s, r, |text, r| {
                    let by = [0.1, 10.0][r.random_range(0..2)];
                    Some(
                        format!("{:.6}", text.parse::<f64>().ok()? * by)
                            .trim_end_matches('0')
                            .trim_end_matches('.')
                            .to_owned(),
                    )
                })
            },
        },
        Plant {
            name: "points behind an impact",
            kinds: &[K::Impact],
            by: |way, seed, r| {
                (way.axes == ["t", "x"]).then_some(())?;
                let mut book = carried_out(way, seed);
                let table = book.state().record.tables[0].clone();
                let last = table.rows.last()?;
                let [t, x] = ["t", "x"].map(|s| table.by_symbol(s).unwrap().id);
                let [t0, x0] = [t, x].map(|c| last.cells[&c].number.value());
                let back = r.random_range(0.2..0.9) * (x0 - table.rows[0].cells[&x].number.value()) / t0;
                for k in 1..=r.random_range(3..6) {
                    let dt = 5.0 * f64::from(k);
                    let typed = |row, column, value: f64| {
                        Edit::Record(RecordEdit::TypeCell { row, column, typed: format!("{value:.2}"), was: None })
                    };
                    done(&mut book, typed(RowAt::Below, t, t0 + dt));
                    let row = RowAt::There(book.state().record.tables[0].rows.last()?.id);
                    done(&mut book, typed(row, x, x0 - back * dt));
                }
                Some(book)
            },
        },
        Plant {
            name: "several quantities changed",
            kinds: &[K::SeveralChanged],
            by: |way, seed, r| {
                let varied: Vec<&str> = way.trials.iter().flatten().map(|(name, _)| *name).collect();
                let probe = crate::common::open(way.sheet, seed);
                let together = probe.sheet().varied_together.clone();
                let free: Vec<(String, String)> = probe
                    .rules()
                    .iter()
                    .filter(|rule| {
                        rule.freedom == Freedom::Free
                            && !varied.contains(&rule.name)
                            && !together.contains(&rule.name)
                            && !way.chosen.iter().any(|(n, _)| *n == rule.name)
                    })
                    .filter_map(|rule| match &rule.value {
                        SettingValue::Quantity(number, unit) if number.value() != 0.0 => {
                            Some((rule.name.to_owned(), format!("{} {unit}", number.value() * 1.25)))
                        }
                        _ => None,
                    })
                    .collect();
                let (name, typed) = free.choose(r)?.clone();
                let at = r.random_range(2..=way.trials.len() as u32);
                let mut taken = false;
                let mut book = measured(way, seed, &mut |book, run| {
                    if run == at {
                        taken = book
                            .apply(&Edit::Run(RunEdit::SetSetting { name: name.clone(), typed: typed.clone() }), 0)
                            .is_ok();
                    }
                });
                taken.then_some(())?;
                conclude(&mut book, &worked(way), way.axes, way.slope);
                // Nobody can see what no run depends on.
                (!book.incomparable(&book.state().record.tables[0]).is_empty()).then_some(book)
            },
        },
    ]
}

fn counts() -> (u64, u64) {
    let asked = std::env::var("ZEITMASS_SLIPS").ok().and_then(|n| n.parse::<u64>().ok());
    asked.map_or((4, 6), |n| (n.div_ceil(27), 40))
}

#[test]
fn clean_logbooks_have_no_slips() {
    let (each, _) = counts();
    let (mut alarms, mut all) = (Vec::new(), 0);
    for way in ways() {
        for seed in 0..each {
            let book = carried_out(&way, 500 + seed);
            let slips = book.slips(&book.analyse());
            all += 1;
            if let Some(slip) = slips.first() {
                alarms.push(format!("{}, seed {}: {:?} {:?}", book.sheet().number, 500 + seed, slip.kind, slip.sign));
            }
        }
    }
    tell(&format!("slips: {} false alarms in {all} clean logbooks", alarms.len()));
    assert!(50 * alarms.len() <= all.max(50), "{} of {all}: {alarms:#?}", alarms.len());
}

#[test]
fn planted_slips_are_found() {
    let (_, each) = counts();
    let all_ways = ways();
    let (mut hit, mut all) = (0, 0);
    let mut table: BTreeMap<&str, (u64, u64)> = BTreeMap::new();
    let mut missed = Vec::new();
    assert!(plants().len() >= 25);
    for plant in plants() {
        let mut random = StdRng::seed_from_u64(7);
        let mut planted = 0;
        // At random among the labs in which there can be such a slip.
        for seed in 0..60 * each {
            if planted == each {
                break;
            }
            let way = all_ways.choose(&mut random).unwrap();
            let Some(book) = (plant.by)(way, seed, &mut random) else { continue };
            planted += 1;
            let slips = book.slips(&book.analyse());
            let found = slips.iter().any(|s| plant.kinds.contains(&s.kind));
            let line = table.entry(plant.name).or_default();
            *line = (line.0 + u64::from(found), line.1 + 1);
            if !found {
                missed.push(format!(
                    "{} in {}: {:?}",
                    plant.name,
                    book.sheet().number,
                    slips.iter().map(|s| s.kind).collect::<Vec<_>>()
                ));
            }
        }
        assert!(planted > 0, "{} could not be planted anywhere", plant.name);
    }
    assert_eq!(table.len(), plants().len());
    for (name, (found, of)) in &table {
        tell(&format!("slips: {name}: {found} of {of}"));
        (hit, all) = (hit + found, all + of);
    }
    tell(&format!("slips: {hit} of {all} found"));
    assert!(5 * hit >= 4 * all, "{hit} of {all}: {table:#?} {missed:#?}");
}

/// Where the constant is hidden, what students are asked is the same whatever law they try: the key cannot be found by trying.
#[test]
fn what_students_are_asked_does_not_tell_a_hidden_constant() {
    let mut keyed = 0;
    for way in ways() {
        let asks = way.sheet.contains("slips = ");
        let more = if asks { "trials =" } else { "slips = \"asked\"\ntrials =" };
        let asking = way.sheet.replacen("trials =", more, 1);
        let way = Way { sheet: Box::leak(asking.into_boxed_str()), ..way };
        if way.slope.is_empty() || crate::common::open(way.sheet, 3).key().is_none() {
            continue;
        }
        keyed += 1;
        let book = carried_out(&way, 3);
        assert!(book.sheet().ask_slips);
        let mut asked = BTreeMap::new();
        for k in -30..=30 {
            let mut tried = book.clone();
            let typed = format!("({})*{}", way.slope, 1.2f64.powi(k));
            let term = zeitmass_core::result::Term::Slope;
            done(&mut tried, Edit::Result(zeitmass_core::logbook::ResultEdit::StateLaw { result: 1, term, typed }));
            let asked_now = tried.slips_to_ask(&tried.analyse());
            let questions: Vec<String> = asked_now.iter().map(zeitmass_words::slips::question).collect();
            asked.insert(questions, k);
        }
        assert_eq!(asked.len(), 1, "{}: {asked:?}", book.sheet().number);
    }
    assert!(keyed > 5);
}
