//! `check` against a plain reading of each record by itself, without look-ups in groups, rows put together at once, or any
//! other short way.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::{
    Code, CodeSet, Found, LetterCase, Policy, SameMailbox, Verdict, cell, examine, is_well_formed,
    suggest_found, text,
};
use ypogram_io::{IfThere, OpenOptions, Target};
use ypogram_jobs::check::{self, Added, CheckOptions};
use ypogram_jobs::{FieldChoice, Progress, Selection};

/// Addresses of all kinds, most of them plain, many of them more than once.
fn address() -> impl Strategy<Value = String> {
    let plain = prop::sample::select(vec![
        "ada@h-works.org",
        "Ada.Lovell@H-Works.org",
        "night.owl+x@gmail.com",
        "NightOwl@googlemail.com",
        "cleo@gmial.com",
        "info@h-works.org",
        "none@none.com",
        "owl@mailinator.com",
        "www.bea@h-works.org",
        "star_gazer@gmail.com",
        "finn@h-works",
        "finn@fernhollow.example",
    ]);
    let odd = prop::sample::select(vec![
        "dara..b@h-works.org",
        "edda@[192.0.2.1]",
        "josé@h-works.org",
        "gus@fernhöllow.org",
        "\"night owl\"@h-works.org",
        "a@b@h-works.org",
        "ada%40h-works.org",
        "r&d@h-works.org",
        "ada@h-works. org",
    ]);
    let new = ("[a-z]{1,3}", "[a-z]{1,2}").prop_map(|(local, domain)| format!("{local}@{domain}x.org"));
    prop_oneof![5 => plain.prop_map(str::to_owned), 2 => odd.prop_map(str::to_owned), 3 => new]
}

fn cells() -> impl Strategy<Value = String> {
    prop_oneof![
        8 => address(),
        1 => address().prop_map(|a| format!(" <{a}>")),
        1 => address().prop_map(|a| format!("mailto:{a}?subject=x")),
        1 => address().prop_map(|a| format!("\"Lovell, Ada\" <{a}>")),
        1 => (address(), address()).prop_map(|(a, b)| format!("{a}; {b}")),
        1 => address().prop_map(|a| format!("write to {a},\nplease")),
        1 => address().prop_map(|a| format!("lov {a}")),
        1 => (address(), address()).prop_map(|(a, b)| format!("{a} -> {b}")),
        1 => address().prop_map(|a| format!("bounced <{a}>")),
        1 => prop::sample::select(vec!["", " ", "-", "see paper", "@", "do not mail", "01632 960413"]).prop_map(str::to_owned),
    ]
}

type Record = [String; 2];

fn tables() -> impl Strategy<Value = Vec<Record>> {
    prop::collection::vec((cells(), cells()).prop_map(|(email, notes)| [email, notes]), 1..90)
}

/// Writes `records` with their fields in the order of `fields`.
fn write_table(records: &[Record], fields: [&str; 2], path: &Path) {
    let mut writer = csv::Writer::from_path(path).unwrap();
    writer.write_record(fields).unwrap();
    for [email, notes] in records {
        writer.write_record(if fields[0] == "email" { [email, notes] } else { [notes, email] }).unwrap();
    }
    writer.flush().unwrap();
}

/// What is to be in the row of a record, by a plain reading.
fn expected(record: &Record, with_notes: bool, policy: &Policy) -> BTreeMap<&'static str, String> {
    let mut found = Vec::new();
    cell::read(record[0].as_bytes(), policy, &mut found);
    let of_email = found.len();
    if with_notes {
        text::find(record[1].as_bytes(), policy, |hit| found.push(hit.into_found()));
    }
    let judge = |found: &Found<'_>, more: CodeSet| {
        let examined = examine(&found.text, policy);
        let codes = examined.codes.union(policy.in_force(found.codes.union(more)));
        (policy.verdict(codes), codes, examined)
    };
    let of_address_field = found[..of_email].iter().map(|found| judge(found, CodeSet::EMPTY));
    let judged: Vec<_> = of_address_field.collect();
    let none_accepted = !judged.is_empty() && judged.iter().all(|(verdict, ..)| *verdict != Verdict::Accept);
    let of_text = if none_accepted { CodeSet::of(&[Code::FromOtherField]) } else { CodeSet::EMPTY };
    let of_text_field = found[of_email..].iter().map(|found| judge(found, of_text));
    let mut judged: Vec<_> = judged.into_iter().chain(of_text_field).collect();
    let Some(best) = (0..judged.len()).min_by_key(|&i| judged[i].0) else {
        return BTreeMap::from([("yp_well_formed", "false".to_owned()), ("yp_form", "none".to_owned())]);
    };
    let usable: Vec<bool> = judged.iter().map(|(verdict, ..)| verdict.is_usable()).collect();
    if with_notes && cell::says_do_not_contact(record[1].as_bytes()) {
        judged[best] = judge(
            &found[best],
            CodeSet::of(&[Code::DoNotContact]).union(if best < of_email { CodeSet::EMPTY } else { of_text }),
        );
    }
    let (verdict, codes, examined) = &judged[best];
    let standard = |i: usize| judged[i].2.standard.as_ref().map_or(String::new(), |s| s.address.clone());
    let mut more: Vec<String> = Vec::new();
    for i in (0..judged.len()).filter(|&i| usable[i]) {
        if standard(i) != standard(best) && !more.contains(&standard(i)) {
            more.push(standard(i));
        }
    }
    let joined = |words: Vec<&str>| words.join(" ");
    let field = if best < of_email { 0 } else { 1 };
    let suggestion = match verdict {
        Verdict::Accept => None,
        _ => suggest_found(&found[best], *codes, policy),
    };
    BTreeMap::from([
        ("yp_address", standard(best)),
        ("yp_well_formed", is_well_formed(record[field].as_bytes(), policy.grammar).to_string()),
        ("yp_verdict", verdict.word().to_owned()),
        ("yp_findings", joined(codes.iter().map(Code::name).collect())),
        (
            "yp_repairs",
            joined(examined.repairs.union(found[best].repairs).iter().map(|r| r.name()).collect()),
        ),
        ("yp_form", found[best].form.word().to_owned()),
        ("yp_field", ["email", "notes"][field].to_owned()),
        ("yp_class", examined.class.map_or("", |class| class.word()).to_owned()),
        ("yp_operator", examined.operator.name().to_owned()),
        ("yp_key", examined.key(policy.same, policy).filter(|_| verdict.is_usable()).unwrap_or_default()),
        ("yp_suggestion", suggestion.map_or(String::new(), |suggestion| suggestion.address)),
        ("yp_more", more.join(",")),
        (
            "yp_remark",
            found[best]
                .remark
                .as_ref()
                .map_or(String::new(), |remark| String::from_utf8_lossy(remark).into_owned()),
        ),
    ])
}

fn check(sources: Vec<PathBuf>, out: &Path, with_notes: bool, policy: &Policy, threads: usize, chunk: usize) {
    let options = CheckOptions {
        sources,
        open: OpenOptions { chunk_bytes: chunk, ..OpenOptions::default() },
        fields: FieldChoice {
            address: vec!["email".into()],
            text: if with_notes { vec!["notes".into()] } else { vec![] },
            ..FieldChoice::default()
        },
        policy: policy.clone(),
        target: Target::File { path: out.to_path_buf(), if_there: IfThere::Replace },
        plain: false,
        field_rules: vec![],
        patterns: vec![],
        house: Default::default(),
        selection: Selection::default(),
        from_lists: vec![],
        show: None,
        added: Added::Everything,
        fill: Vec::new(),
        rows: Default::default(),
        prefix: "yp_".into(),
        threads,
        hash_key: 7,
        remembered: None,
    };
    check::run(options, &Progress::default()).unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn rows_say_what_a_plain_reading_says(
        first in tables(),
        second in tables(),
        with_notes: bool,
        same in prop::sample::select(SameMailbox::ALL.to_vec()),
        keep: bool,
        chunk in prop::sample::select(vec![40_usize, 700, 1 << 20]),
    ) {
        let mut policy = Policy::default();
        policy.same = same;
        policy.letter_case = if keep { LetterCase::Keep } else { LetterCase::Lower };
        let place = TempDir::new().unwrap();
        let path = |name: &str| place.path().join(name);
        write_table(&first, ["email", "notes"], &path("first.csv"));
        write_table(&second, ["notes", "email"], &path("second.csv"));
        let out = path("out.csv");
        for (sources, records) in [
            (vec![path("first.csv")], first.clone()),
            (vec![path("first.csv"), path("second.csv")], [&first[..], &second[..]].concat()),
        ] {
            check(sources, &out, with_notes, &policy, 2, chunk);
            let mut reader = csv::Reader::from_path(&out).unwrap();
            let header = reader.headers().unwrap().clone();
            let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
            prop_assert_eq!(rows.len(), records.len());
            for (row, record) in rows.iter().zip(&records) {
                let expected = expected(record, with_notes, &policy);
                for (name, cell) in header.iter().zip(row) {
                    match name {
                        "email" => prop_assert_eq!(cell, &record[0]),
                        "notes" => prop_assert_eq!(cell, &record[1]),
                        "yp_source" => prop_assert!(cell.ends_with(".csv")),
                        name => {
                            let wanted = expected.get(name).map_or("", String::as_str);
                            prop_assert_eq!(cell, wanted, "{} of {:?}", name, record);
                        }
                    }
                }
            }
        }
    }
}
