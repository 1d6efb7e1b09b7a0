//! How a house builds its addresses: fits, the part at fault, the proposal; and every error of the notation under its place.

use proptest::prelude::*;
use ypogram_core::Pattern;
use ypogram_core::house_format::{Fold, HouseFormat, HouseLearner, folded};
use ypogram_core::names::{split_plain, split_whole};

const DOTTED: &str = r#"given "." family "@fernhollow.example""#;
const STAFF: &str = r#"family "_" given(1) number? "@staff.fernhollow.example""#;
const OR: &str = r#"given(2+) "." family or given(1) family "@fern-hollow.example""#;
const NUMBERED: &str = r#""obs-" field "staff no" digits(4) "@fernhollow.example""#;

fn format(written: &str) -> HouseFormat {
    HouseFormat::new(written, Fold::Plain).unwrap_or_else(|error| panic!("{written}: {}", error.message))
}

/// The words and the proposal; `+` behind the words stands for a short form of the name.
fn judged(format: &HouseFormat, address: &str, [given, family]: [&str; 2]) -> (String, String) {
    let fields: Vec<&str> = format.fields().iter().map(|_| "17").collect();
    let verdict = format.judge(address, &format.person(given, family, &fields));
    for fault in &verdict.faults {
        assert!(address.get(fault.span.clone()).is_some(), "{address}: {fault:?}");
        assert!(fault.message.ends_with('.') && fault.message.len() > 10, "{fault:?}");
    }
    let short = if verdict.short_name { "+" } else { "" };
    (verdict.words() + short, verdict.proposal.unwrap_or_default())
}

#[test]
fn fits_faults_and_proposals() {
    let ada = ["Ada", "Lovell"];
    let tiff = ["Tiffany", "Lovell"];
    let zoe = ["Zoë", "O’Neil-Müller"];
    let none = ["", ""];
    for (written, address, person, words, proposal) in [
        (DOTTED, "ada.lovell@fernhollow.example", ada, "fits", ""),
        (DOTTED, "Ada.Lovell@fernhollow.example", ada, "fits", ""),
        (DOTTED, "lovell.ada@fernhollow.example", ada, "order", "ada.lovell@fernhollow.example"),
        (DOTTED, "lovell_ada@fernhollow.example", ada, "order separator", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada_lovell@fernhollow.example", ada, "separator", "ada.lovell@fernhollow.example"),
        (DOTTED, "adalovell@fernhollow.example", ada, "separator", "ada.lovell@fernhollow.example"),
        (DOTTED, "a.lovell@fernhollow.example", ada, "given", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.l@fernhollow.example", ada, "family", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovel@fernhollow.example", ada, "family", "ada.lovell@fernhollow.example"),
        (DOTTED, "lovell@fernhollow.example", ada, "given", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada@fernhollow.example", ada, "family", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.b.lovell@fernhollow.example", ada, "surplus", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovell2@fernhollow.example", ada, "surplus", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovell@fern-hollow.example", ada, "domain", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovell@fernhollow.exmaple", ada, "domain", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovell@gmail.com", ada, "domain", "ada.lovell@fernhollow.example"),
        (DOTTED, "ada.lovell@mail.fernhollow.example", ada, "sub-domain", "ada.lovell@fernhollow.example"),
        (DOTTED, "bea.marsh@fernhollow.example", ada, "given family", "ada.lovell@fernhollow.example"),
        // Short forms and beginnings of a given name.
        (DOTTED, "tiff.lovell@fernhollow.example", tiff, "fits+", ""),
        (DOTTED, "bill.lovell@fernhollow.example", ["William", "Lovell"], "fits+", ""),
        (DOTTED, "tiff_lovell@fernhollow.example", tiff, "separator+", "tiffany.lovell@fernhollow.example"),
        // Letters beyond a to z, hyphens, particles; another script is no fault.
        (DOTTED, "zoe.oneil-muller@fernhollow.example", zoe, "fits", ""),
        (DOTTED, "zoe.oneil.muller@fernhollow.example", zoe, "family", "zoe.oneil-muller@fernhollow.example"),
        (DOTTED, "lukasz.vandenberg@fernhollow.example", ["Łukasz", "van den Berg"], "fits", ""),
        (DOTTED, "zoya.ivanova@fernhollow.example", ["Зоя", "Иванова"], "fits", ""),
        // Without names the shape alone.
        (DOTTED, "any.body@fernhollow.example", none, "fits", ""),
        (DOTTED, "anybody@fernhollow.example", none, "separator", ""),
        (DOTTED, "any.b0dy@fernhollow.example", none, "family", ""),
        (STAFF, "lovell_a@staff.fernhollow.example", ada, "fits", ""),
        (STAFF, "lovell_a12@staff.fernhollow.example", ada, "fits", ""),
        (STAFF, "lovell_ad@staff.fernhollow.example", ada, "given", "lovell_a@staff.fernhollow.example"),
        (
            STAFF,
            "lovell.a7@fernhollow.example",
            ada,
            "separator sub-domain",
            "lovell_a7@staff.fernhollow.example",
        ),
        (STAFF, "a_lovell@staff.fernhollow.example", ada, "order", "lovell_a@staff.fernhollow.example"),
        (STAFF, "lovell_a@stuff.fernhollow.example", ada, "sub-domain", "lovell_a@staff.fernhollow.example"),
        (STAFF, "lovell_a@stafffernhollow.example", ada, "domain", "lovell_a@staff.fernhollow.example"),
        (
            STAFF,
            "lovell_a@fern-hollow.example",
            ada,
            "sub-domain domain",
            "lovell_a@staff.fernhollow.example",
        ),
        (STAFF, "marsh_bo@staff.fernhollow.example", none, "given", ""),
        (OR, "ad.lovell@fern-hollow.example", ada, "fits", ""),
        (OR, "ada.lovell@fern-hollow.example", ada, "fits", ""),
        (OR, "alovell@fern-hollow.example", ada, "fits", ""),
        (OR, "a.lovell@fern-hollow.example", ada, "given", "ada.lovell@fern-hollow.example"),
        (OR, "alovell@fernhollow.example", ada, "domain", "alovell@fern-hollow.example"),
        (NUMBERED, "obs-170042@fernhollow.example", none, "fits", ""),
        (NUMBERED, "obs-17042@fernhollow.example", none, "number", ""),
        (NUMBERED, "ops-170042@fernhollow.example", none, "literal", "obs-170042@fernhollow.example"),
        (NUMBERED, "170042@fernhollow.example", none, "literal", "obs-170042@fernhollow.example"),
    ] {
        let found = judged(&format(written), address, person);
        assert_eq!(
            (found.0.as_str(), found.1.as_str()),
            (words, proposal),
            "{written}: {address} of {person:?}"
        );
    }
    let german = HouseFormat::new(DOTTED, Fold::German).unwrap();
    let found = judged(&german, "jurgen.weiss@fernhollow.example", ["Jürgen", "Weiß"]);
    assert_eq!(found, ("given".to_owned(), "juergen.weiss@fernhollow.example".to_owned()));
}

#[test]
fn what_is_wrong_is_told_in_a_sentence() {
    let ada = ["Ada", "Lovell"];
    for (written, address, sentence) in [
        (
            r#"given(2) "_" family "@fernhollow.example""#,
            "a_lovell@fernhollow.example",
            "Two letters of the given name are asked for, and one stands there.",
        ),
        (
            r#"given "_" family "@fernhollow.example""#,
            "ada.lovell@fernhollow.example",
            "An underscore is asked for where a dot stands.",
        ),
        (STAFF, "lovell_a@fernhollow.example", "The sub-domain ‘staff’ is missing."),
        (
            DOTTED,
            "ada.lovell@fernholow.example",
            "The domain ‘fernhollow.example’ is asked for, and ‘fernholow.example’ looks like a slip of it.",
        ),
        (
            DOTTED,
            "lovell.ada@fernhollow.example",
            "The family name stands before the given name; it is asked for the other way round.",
        ),
        (
            DOTTED,
            "a.lovell@fernhollow.example",
            "The whole given name ‘ada’ is asked for, and only ‘a’ stands there.",
        ),
        (DOTTED, "ada.lovell7@fernhollow.example", "‘7’ is too much."),
    ] {
        let format = format(written);
        let verdict = format.judge(address, &format.person(ada[0], ada[1], &[]));
        assert_eq!(verdict.faults[0].message, sentence, "{address}");
    }
}

#[test]
fn every_error_of_the_notation_stands_under_its_place() {
    for (written, marked, message) in [
        ("given \".\" famly \"@x.org\"", "famly", "there is no part ‘famly’; did you mean family?"),
        ("given . family \"@x.org\"", ".", "a text stands in quotes, as in \".\""),
        ("given \". family", "\". family", "this quotation mark is never closed"),
        ("given \"\" \"@x.org\"", "\"\"", "nothing stands between the quotation marks"),
        ("(given \"@x.org\"", "(", "this parenthesis is never closed"),
        ("given) \"@x.org\"", ")", "this parenthesis was never opened"),
        ("? given \"@x.org\"", "?", "nothing stands before this question mark"),
        ("given(0) \"@x.org\"", "(0)", "this is no count from 1 to 64, such as (2), (2+) or (1-2)"),
        ("given(3-2) \"@x.org\"", "(3-2)", "this is no count from 1 to 64, such as (2), (2+) or (1-2)"),
        ("field given \"@x.org\"", "field", "the name of the field is missing, as in field \"staff no\""),
        ("given or or family \"@x.org\"", "o", "a part or a text in quotes is missing here"),
        ("", "", "a part or a text in quotes is missing here"),
        (
            "given \".\" family",
            "given \".\" family",
            "there is no domain; write it behind an @, as in \"@fernhollow.example\"",
        ),
        ("\"@x.org\"", "\"@x.org\"", "nothing stands before the @"),
        ("given \"@\" family", "given \"@\" family", "behind the @ stand texts in quotes alone"),
        ("given \"@a@b.org\"", "given \"@a@b.org\"", "there is more than one @"),
        ("given \"@x..org\"", "given \"@x..org\"", "‘x..org’ is no domain"),
        ("given & \"@x.org\"", "&", "this is neither a part nor a text in quotes"),
        (
            "given number? \"a\"? \"b\"? \"c\"? \"d\"? \"e\"? \"f\"? \"@x.org\"",
            "given number? \"a\"? \"b\"? \"c\"? \"d\"? \"e\"? \"f\"? \"@x.org\"",
            "it allows more than 64 ways to build an address; make two formats of it",
        ),
    ] {
        let error = HouseFormat::new(written, Fold::Plain).unwrap_err();
        assert_eq!((&written[error.span.clone()], &*error.message), (marked, message), "{written}");
    }
}

#[test]
fn formats_with_little_in_them_are_described() {
    for written in
        [r#""k@a""#, r#""é@fernhollow.example""#, r#""aé@é.example""#, r#"given "@b""#, r#""1@x.y""#]
    {
        let format = format(written);
        let description = format.describe();
        let fits = |address: &str| format.judge(address, &format.person("", "", &[])).fits();
        assert!(description.fitting.iter().all(|(_, address)| fits(address)), "{written}");
        assert!(!description.failing.is_empty(), "{written}");
        assert!(description.failing.iter().all(|(_, _, why)| why.ends_with('.')), "{written}");
    }
}

fn formats() -> impl Strategy<Value = String> {
    let name = prop::sample::select(vec![
        "given",
        "family",
        "given(1)",
        "given(2)",
        "family(3)",
        "given(2+)",
        "number?",
        "digits(2)",
    ]);
    let sign = prop::sample::select(vec![".", "_", "-", "x9", "obs."]);
    prop::collection::vec((name, sign), 1..4).prop_map(|parts| {
        let parts: Vec<String> = parts.iter().map(|(name, sign)| format!("{name} \"{sign}\"")).collect();
        format!("{} family \"@staff.fernhollow.example\"", parts.join(" "))
    })
}

proptest! {
    /// What a format generates fits it, and nothing makes it panic.
    #[test]
    fn what_it_generates_fits(written in formats(), given in "[A-ZÄÖØŁ][a-zéü]{0,7}(-[A-Z][a-z]{1,4})?", family in "([Vv]an )?[A-Z][a-zß]{1,9}", other in "\\PC{0,20}") {
        let format = format(&written);
        let person = format.person(&given, &family, &[]);
        for (_, address) in format.describe().fitting {
            prop_assert!(format.judge(&address, &format.person("", "", &[])).fits(), "{address}");
        }
        if let Some(address) = format.propose(&person) {
            let verdict = format.judge(&address, &person);
            prop_assert!(verdict.fits() && !verdict.short_name, "{address}: {verdict:?}");
        }
        for address in format.propose(&person).into_iter().chain([other.clone()]) {
            let (local, domain) = address.rsplit_once('@').unwrap_or((&address, ""));
            if format.certainly_fits(local.as_bytes(), domain.as_bytes(), given.as_bytes(), family.as_bytes()) {
                let verdict = format.judge(&address, &person);
                prop_assert!(verdict.fits() && !verdict.short_name, "{address}: {verdict:?}");
            }
        }
        let _ = format.judge(&other, &person);
        let _ = HouseFormat::new(&other, Fold::German);
    }

    /// One edit in a literal does not fit.
    #[test]
    fn one_edit_in_a_literal_does_not(at in 0..24_usize, edit in 0..3_usize, c in "[a-z0-9._-]") {
        let format = format(r#""obs." given "-team@staff.fernhollow.example""#);
        let person = format.person("Zoë", "", &[]);
        let address = format.propose(&person).unwrap();
        let places: Vec<usize> = address.match_indices(|_: char| true).map(|(place, _)| place)
            .filter(|place| !(4..7).contains(place) && address.as_bytes()[*place] != b'@').collect();
        let place = places[at % places.len()];
        let edited = match edit {
            0 => format!("{}{}", &address[..place], &address[place + 1..]),
            1 => format!("{}{c}{}", &address[..place], &address[place + 1..]),
            _ => format!("{}{c}{}", &address[..place], &address[place..]),
        };
        prop_assume!(edited != address);
        let verdict = format.judge(&edited, &person);
        prop_assert!(!verdict.fits(), "{edited}");
        prop_assert_eq!(verdict.proposal.as_deref(), Some(&*address), "{}", edited);
    }

    /// What is learned from addresses that a format gives is a format that all of them fit.
    #[test]
    fn what_is_learned_fits(way in 0..4_usize, names in prop::collection::vec(("[A-Z][a-z]{2,6}", "[A-Z][a-z]{2,6}"), 3..8)) {
        let written = [
            "given \".\" family \"@h-works.org\"", "family \"_\" given(1) \"@h-works.org\"", "given(2) family \"@h-works.org\"", "family \"@h-works.org\"",
        ][way];
        let (format, mut learner) = (format(written), HouseLearner::new(Fold::Plain));
        let persons: Vec<_> = names.iter().map(|(given, family)| format.person(given, family, &[])).collect();
        let addresses: Vec<String> = persons.iter().map(|person| format.propose(person).unwrap()).collect();
        for (address, (given, family)) in addresses.iter().zip(&names) {
            learner.add(address, given, family);
        }
        let learned = learner.formats().remove(0);
        prop_assert_eq!(learned.following, learned.addresses);
        let learned = HouseFormat::new(&learned.format, Fold::Plain).unwrap();
        for (address, person) in addresses.iter().zip(&persons) {
            prop_assert!(learned.judge(address, person).fits(), "{} {}", learned.written(), address);
        }
    }

    /// The quick way to cut a name says what the thorough one says.
    #[test]
    fn a_name_is_cut_alike(name in "((Dr|Ada|LOVELL|van|Professor|O'Neil|Anna-Lena|bea|x)[ ]?){1,3}") {
        if let Some((given, family)) = split_plain(name.trim().as_bytes()) {
            let (given, family) = (String::from_utf8_lossy(given), String::from_utf8_lossy(family));
            prop_assert_eq!((given.into_owned(), family.into_owned()), split_whole(&name));
        }
    }

    /// Examples of a pattern fit it or do not, as they are said to, and each piece is said in words.
    #[test]
    fn what_a_pattern_is_said_to_accept(parts in prop::collection::vec(prop::sample::select(vec![
        "OBS/", r"\d{4}", r"[a-z]+", r"(\w|-)?", "(?:ab|cd)", r"[^0-9]", r"\s*", ".{2,3}", r"\p{L}", "x?",
    ]), 1..5), whole: bool) {
        let pattern = Pattern::new("p", &parts.concat(), whole, false).unwrap();
        let description = pattern.describe();
        prop_assert!(!description.pieces.is_empty() && description.pieces.iter().all(|piece| !piece.is_empty()));
        prop_assert!(description.fitting.iter().all(|value| pattern.fits(value.as_bytes())));
        prop_assert!(description.failing.iter().all(|value| !pattern.fits(value.as_bytes())));
        prop_assert!(!description.fitting.is_empty(), "{}", pattern.written);
    }

    #[test]
    fn folding_twice_changes_nothing(name in "\\PC{0,12}") {
        for fold in [Fold::Plain, Fold::German] {
            if let Some(once) = folded(&name, fold) {
                prop_assert_eq!(folded(&once, fold), Some(once));
            }
        }
    }
}
