//! Names out of local parts, held against a labelled table, and names brought to proper capitals.

use proptest::prelude::*;
use ypogram_core::names::{NameConfidence, NameOrder, derive, differs, title_case};

#[test]
fn names_are_read_as_a_person_reads_them() {
    let rows: Vec<Vec<&str>> = include_str!("names.tsv")
        .lines()
        .filter(|line| !line.starts_with('#'))
        .map(|line| line.split('\t').collect())
        .collect();
    assert!(rows.len() >= 250, "{} labelled local parts", rows.len());
    let mut wrong = Vec::new();
    let mut guessed = 0;
    for row in &rows {
        let [local, order, first, middle, last, confidence] = row[..] else { panic!("{row:?}") };
        let order = if order == "family" { NameOrder::FamilyFirst } else { NameOrder::FirstNameFirst };
        let name = derive(local, order);
        let read = (&*name.first, &*name.middle, &*name.last, name.confidence.word());
        if read != (first, middle, last, confidence) {
            wrong.push(format!("{local}: read {read:?}, labelled {:?}", (first, middle, last, confidence)));
        }
        guessed += usize::from(confidence == "none" && name.confidence != NameConfidence::None);
    }
    let right = rows.len() - wrong.len();
    println!("{right} of {} names right ({:.1} %)", rows.len(), right as f64 * 100.0 / rows.len() as f64);
    println!("{}", wrong.join("\n"));
    assert_eq!(guessed, 0, "no name is made of what is none");
    assert!(right * 100 >= rows.len() * 98, "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn fields_get_proper_capitals() {
    for (cell, family, expected) in [
        ("ada lovell", false, "Ada Lovell"),
        ("ADA LOVELL", false, "Ada Lovell"),
        ("  shona   MCINTYRE ", false, "  Shona   McIntyre "),
        ("Ilario DiCorvo", false, "Ilario DiCorvo"),
        ("VAN DER BERG", true, "van der Berg"),
        ("DE LA CRUZ", true, "de la Cruz"),
        ("carla DE LA CRUZ", false, "Carla de la Cruz"),
        ("ben ASHGROVE", false, "Ben Ashgrove"),
        ("o’neil", true, "O’Neil"),
        ("ZOË ÆRØ-ØST", false, "Zoë Ærø-Øst"),
        ("j. r. tolkar", false, "J. R. Tolkar"),
        ("john dunmore iii", false, "John Dunmore III"),
        ("", false, ""),
    ] {
        assert_eq!(title_case(cell, family), expected, "{cell:?}");
        let once = title_case(cell, family);
        assert_eq!(title_case(&once, family), once, "twice changes nothing: {cell:?}");
    }
}

#[test]
fn another_person_is_told_from_another_spelling() {
    for (local, cells, expected) in [
        ("ada.lovell", &["Ada", "Lovell"][..], false),
        ("ada.lovell", &["Lovell, Ada"], false),
        ("ada.lovell", &["ADA", "ASHGROVE"], false),
        ("ada.lovell", &["Bea", "Ashgrove"], true),
        ("juergen.mueller", &["Jürgen Müller"], false),
        ("jurgen.muller", &["Jürgen Müller"], false),
        ("joris.van.gracht", &["J. Gracht"], false),
        ("ada.lovell", &[], false),
        ("ada.lovell", &["", "A."], false),
        ("stargazer", &["Ada", "Lovell"], false),
        ("a.lovell", &["Bea", "Ashgrove"], false),
    ] {
        let derived = derive(local, NameOrder::FirstNameFirst);
        let cells: Vec<&[u8]> = cells.iter().map(|cell| cell.as_bytes()).collect();
        assert_eq!(differs(&derived, &cells), expected, "{local} {cells:?}");
    }
}

proptest! {
    /// Proper capitals change letter case and nothing else, and are proper already the second time.
    #[test]
    fn capitals_settle(cell in "[a-zA-Zéø'’. -]{0,24}", family in any::<bool>()) {
        let once = title_case(&cell, family);
        prop_assert_eq!(once.to_lowercase(), cell.to_lowercase());
        prop_assert_eq!(title_case(&once, family), once.clone(), "of {:?}", cell);
    }

    /// The other order gives the same person, and no spelling of a name is another person's.
    #[test]
    fn a_name_is_the_same_either_way_round(
        first in prop::sample::select(vec!["ada", "bea", "cleo", "dara", "edda", "hugo", "shona", "zoe"]),
        last in prop::sample::select(vec!["lovell", "quist", "harrow", "mcintyre", "thornbury", "trelawney", "o'neil", "yarrow"]),
        separator in prop::sample::select(vec![".", "_", "-"]),
        digits in "[0-9]{0,3}",
    ) {
        let straight = derive(&format!("{first}{separator}{last}{digits}"), NameOrder::FirstNameFirst);
        let turned = derive(&format!("{last}{separator}{first}{digits}"), NameOrder::FamilyFirst);
        prop_assert_eq!((&straight.first, &straight.last), (&turned.first, &turned.last));
        prop_assert_eq!(straight.confidence, NameConfidence::TwoWords);
        prop_assert_eq!((straight.first.to_lowercase(), straight.last.to_lowercase()), (first.to_owned(), last.to_owned()));
        let cells = [
            format!("{} {}", first.to_uppercase(), last.to_uppercase()),
            format!("{}, {}", straight.last, straight.first),
            format!("Dr. {} {}", straight.first, straight.last),
            format!("{}. {}", &straight.first[..1], straight.last),
        ];
        for cell in &cells {
            prop_assert!(!differs(&straight, &[cell.as_bytes()]), "{} of {:?}", cell, straight);
        }
        prop_assert!(!differs(&straight, &[straight.last.as_bytes(), straight.first.as_bytes()]));
        prop_assert!(differs(&straight, &[b"Ingmar Ostrander"]));
    }
}
