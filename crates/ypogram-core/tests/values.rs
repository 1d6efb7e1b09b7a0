//! Dates and numbers as people write them: one order, whatever the spelling.

use std::cmp::Ordering;

use proptest::prelude::*;
use ypogram_core::value::{DateOrder, read, write_sort_key};

fn compare(one: &[u8], other: &[u8]) -> Ordering {
    let key = |cell: &[u8]| {
        let mut key = Vec::new();
        write_sort_key(cell, DateOrder::DayFirst, &mut key);
        key
    };
    key(one).cmp(&key(other))
}

fn cells() -> impl Strategy<Value = String> {
    prop_oneof![
        3 => (2015..2030, 1..13, 1..29).prop_map(|(year, month, day)| format!("{year}-{month:02}-{day:02}")),
        1 => (2015..2030, 1..13, 1..29).prop_map(|(year, month, day)| format!("{day}.{month}.{year}")),
        3 => (-5000_i32..5000).prop_map(|number| number.to_string()),
        1 => (0..5000, 0..100).prop_map(|(whole, part)| format!("{whole}.{part:02} €")),
        3 => "[a-zA-Z]{0,4}",
        1 => prop::sample::select(vec!["", " ", "later", "É", "é", "1a", "30/02/2024", "-"]).prop_map(str::to_owned),
    ]
}

proptest! {
    #[test]
    fn any_cells_have_one_order(one in cells(), other in cells(), third in cells()) {
        let by = |one: &str, other: &str| compare(one.as_bytes(), other.as_bytes());
        prop_assert_eq!(by(&one, &one), Ordering::Equal);
        prop_assert_eq!(by(&one, &other), by(&other, &one).reverse());
        if by(&one, &other).is_le() && by(&other, &third).is_le() {
            prop_assert!(by(&one, &third).is_le(), "{:?} {:?} {:?}", one, other, third);
        }
        let mut sorted = [one, other, third];
        sorted.sort_by(|one, other| by(one, other));
        let empty = sorted.iter().position(|cell| cell.trim().is_empty());
        prop_assert!(sorted[empty.unwrap_or(3)..].iter().all(|cell| cell.trim().is_empty()), "what is empty comes last");
    }

    #[test]
    fn a_day_is_the_same_day_in_every_spelling(year in 1950_u32..2060, month in 1_u32..13, day in 1_u32..29, other in 1_u32..29) {
        const MONTHS: [&str; 12] = ["Jan", "Feb", "March", "Apr", "May", "June", "Jul", "August", "Sep", "Oct", "November", "Dec"];
        let name = MONTHS[month as usize - 1];
        let spellings = |day: u32| {
            [
                format!("{year}-{month:02}-{day:02}"),
                format!("{day:02}.{month:02}.{year}"),
                format!("{day}.{month}.{year}"),
                format!("{day:02}/{month:02}/{year}"),
                format!("{day} {name} {year}"),
                format!("{year}-{month:02}-{day:02} 00:00:00"),
                format!("{year}-{month:02}-{day:02}T00:00:00Z"),
            ]
        };
        for (one, later) in spellings(day).iter().zip(&spellings(other)) {
            prop_assert!(read(one.as_bytes()).is_some(), "{} is read", one);
            for same in &spellings(day) {
                prop_assert_eq!(compare(one.as_bytes(), same.as_bytes()), Ordering::Equal, "{} and {}", one, same);
            }
            prop_assert_eq!(compare(one.as_bytes(), later.as_bytes()), day.cmp(&other), "{} and {}", one, later);
        }
    }
}
