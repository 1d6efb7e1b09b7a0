//! Turns the plain text files under `data/` into tables that cost nothing at start.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

fn main() {
    println!("cargo:rerun-if-changed=data");
    println!("cargo:rerun-if-changed=build.rs");
    let out = PathBuf::from(env::var_os("OUT_DIR").expect("cargo sets OUT_DIR"));
    fs::write(out.join("providers.rs"), providers()).expect("write providers.rs");
    fs::write(out.join("local_words.rs"), local_words()).expect("write local_words.rs");
    fs::write(out.join("reserved.rs"), reserved()).expect("write reserved.rs");
    fs::write(out.join("slips.rs"), slips()).expect("write slips.rs");
    fs::write(out.join("cell_words.rs"), cell_words()).expect("write cell_words.rs");
    fs::write(out.join("ordinary_words.rs"), ordinary_words()).expect("write ordinary_words.rs");
    fs::write(out.join("short_names.rs"), short_names()).expect("write short_names.rs");
    fs::write(out.join("titles.rs"), titles()).expect("write titles.rs");
}

/// The facts of a data file: its lines without comments, cut at tabs.
fn facts(name: &str) -> Vec<Vec<String>> {
    let path = Path::new("data").join(name);
    let text = fs::read_to_string(&path).unwrap_or_else(|e| panic!("{}: {e}", path.display()));
    text.lines()
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .map(|line| line.split('\t').map(str::to_owned).collect())
        .collect()
}

/// The first eight bytes of a word, each with the bit of small letters set.
fn first_eight(word: &str) -> u64 {
    let mut eight = [0; 8];
    eight.iter_mut().zip(word.bytes()).for_each(|(place, b)| *place = b | 0x20);
    u64::from_le_bytes(eight)
}

fn set(table: &mut [u64], place: usize) {
    table[place / 64] |= 1 << (place % 64);
}

/// Words of a sentence in front of ‘at’.
fn ordinary_words() -> String {
    let mut words = phf_codegen::Set::new();
    for fact in facts("ordinary-words.txt") {
        words.entry(bytes(&fact[0]));
    }
    format!("static ORDINARY_WORDS: phf::Set<&'static [u8]> = {};\n", words.build())
}

/// Short forms of given names.
fn short_names() -> String {
    let mut names = phf_codegen::Map::new();
    for fact in facts("short-names.tsv") {
        let of: Vec<&str> = fact[1].split(',').collect();
        names.entry(bytes(&fact[0]), format!("&{of:?}"));
    }
    format!("static SHORT_NAMES: phf::Map<&'static [u8], &'static [&'static str]> = {};\n", names.build())
}

/// How people are addressed or employed.
fn titles() -> String {
    let mut titles = phf_codegen::Map::new();
    for fact in facts("titles.tsv") {
        titles.entry(bytes(&fact[0]), format!("Title::{}", fact[1][..1].to_uppercase() + &fact[1][1..]));
    }
    format!("static TITLES: phf::Map<&'static [u8], Title> = {};\n", titles.build())
}

/// Words and phrases that stand in cells instead of an address or beside one.
fn cell_words() -> String {
    let mut nothing = phf_codegen::Set::new();
    for fact in facts("nothing-there.txt") {
        nothing.entry(bytes(&fact[0]));
    }
    let mut labels = phf_codegen::Map::new();
    for fact in facts("labels.txt") {
        labels.entry(bytes(&fact[0]), (fact[1] == "telephone").to_string());
    }
    let mut replaced = phf_codegen::Map::new();
    for fact in facts("replaced.txt") {
        replaced.entry(bytes(&fact[0]), (fact[1] == "new").to_string());
    }
    // By first word, without accents. What is written without spaces is looked for anywhere.
    let mut phrases: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut unspaced = Vec::new();
    for fact in facts("do-not-contact.txt") {
        let plain: String = fact[0].nfd().filter(|&c| !is_combining_mark(c)).collect();
        let plain = plain.replace('ł', "l").replace('ø', "o");
        let plain = plain.split([' ', '.']).filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ");
        if fact[1] == "ja" {
            unspaced.push(fact[0].clone());
        } else {
            let (first, rest) = plain.split_once(' ').unwrap_or((&plain, ""));
            phrases.entry(first.to_owned()).or_default().push(rest.to_owned());
        }
    }
    // Which words are a phrase, start one, and are the first two of one.
    let [mut alone, mut first, mut pairs] = std::array::from_fn(|_| vec![0_u64; 65_536 / 64]);
    for (start, rests) in &phrases {
        for rest in rests {
            let phrase = format!("{start} {rest}");
            let words: Vec<u64> =
                phrase.split([' ', '\'']).filter(|word| !word.is_empty()).map(first_eight).collect();
            match words[..] {
                [word] => set(&mut alone, start_of_word(word)),
                [word, next, ..] => {
                    set(&mut first, start_of_word(word));
                    set(&mut pairs, start_of_pair(word, next));
                }
                [] => unreachable!("a phrase has a word"),
            }
        }
    }
    let mut by_first = phf_codegen::Map::new();
    for (first, rests) in &phrases {
        by_first.entry(bytes(first), format!("&{rests:?}"));
    }
    format!(
        "static NOTHING_THERE: phf::Set<&'static [u8]> = {};\n\
         static IS_OF_TELEPHONE: phf::Map<&'static [u8], bool> = {};\n\
         static IS_NEWER: phf::Map<&'static [u8], bool> = {};\n\
         static DO_NOT_CONTACT: phf::Map<&'static [u8], &'static [&'static str]> = {};\n\
         static ALONE: [u64; 65_536 / 64] = {alone:?};\n\
         static FIRST: [u64; 65_536 / 64] = {first:?};\n\
         static PAIRS: [u64; 65_536 / 64] = {pairs:?};\n\
         static DO_NOT_CONTACT_UNSPACED: [&str; {}] = {unspaced:?};\n",
        nothing.build(),
        labels.build(),
        replaced.build(),
        by_first.build(),
        unspaced.len(),
    )
}

fn bytes(text: &str) -> &'static [u8] {
    Box::leak(text.to_owned().into_boxed_str()).as_bytes()
}

/// What `mailbox-rules.tsv` says of one operator, only the sure facts.
#[derive(Default)]
struct Rule {
    tag: Option<u8>,
    ignored: u128,
    same: Option<(u8, u8)>,
    joined: Vec<String>,
    all_joined: bool,
    sub_domain: bool,
    issued: u128,
    issued_length: (u8, u8),
}

fn mailbox_rules() -> BTreeMap<String, Rule> {
    let mut rules: BTreeMap<String, Rule> = BTreeMap::new();
    for fact in facts("mailbox-rules.tsv") {
        let [operator, kind, value, certainty] = &fact[..] else { panic!("mailbox-rules.tsv: {fact:?}") };
        if certainty != "sure" {
            continue;
        }
        let rule = rules.entry(operator.clone()).or_default();
        let value_bytes = value.as_bytes();
        match kind.as_str() {
            "tag" => rule.tag = Some(value_bytes[0]),
            "ignored" => rule.ignored |= 1 << value_bytes[0],
            "same" => rule.same = Some((value_bytes[0], value_bytes[2])),
            "one-mailbox" if value == "all" => rule.all_joined = true,
            "one-mailbox" => rule.joined = value.split('=').map(str::to_owned).collect(),
            "sub-domain" => rule.sub_domain = true,
            "issued-characters" => rule.issued = characters(value),
            "issued-length" => {
                let (least, most) = value.split_once('-').expect("a range");
                rule.issued_length = (least.parse().expect("bytes"), most.parse().expect("bytes"));
            }
            other => panic!("mailbox-rules.tsv: unknown fact {other}"),
        }
    }
    rules
}

/// `a-z 0-9 .` as one bit an ASCII character.
fn characters(value: &str) -> u128 {
    value.split(' ').map(str::as_bytes).fold(0, |set, part| match part {
        [one] => set | 1 << one,
        [from, b'-', to] => (*from..=*to).fold(set, |set, c| set | 1 << c),
        _ => panic!("mailbox-rules.tsv: characters {value:?}"),
    })
}

fn providers() -> String {
    let rules = mailbox_rules();
    let rule_of: BTreeMap<&str, usize> = rules.keys().enumerate().map(|(i, o)| (o.as_str(), i + 1)).collect();
    let providers = facts("providers.tsv");
    let known: BTreeSet<&str> = providers.iter().map(|fact| fact[0].trim_start_matches('.')).collect();
    // Known slips are on such lists as well.
    let slips = facts("slips.tsv");
    let slips: BTreeSet<&str> = slips.iter().map(|fact| fact[0].as_str()).collect();
    let mut listed = facts("free-listed.tsv");
    listed.retain(|fact| !known.contains(fact[0].as_str()) && !slips.contains(fact[0].as_str()));
    let of_listed = listed.iter().filter_map(|fact| fact.get(1));
    let mut operators: Vec<&str> =
        providers.iter().map(|fact| &fact[2]).chain(of_listed).map(String::as_str).collect();
    operators.sort_unstable();
    operators.dedup();

    let mut map = phf_codegen::Map::new();
    let mut main_domain: BTreeMap<&str, &str> = BTreeMap::new();
    for fact in &providers {
        let (entry, class, operator) = (&fact[0], &fact[1], fact[2].as_str());
        let domain = entry.strip_prefix('.').unwrap_or(entry);
        let index = operators.binary_search(&operator).expect("listed");
        let rule = rules.get(operator);
        let joined = rule.is_some_and(|r| r.all_joined || r.joined.iter().any(|d| d == domain));
        let class = class[..1].to_uppercase() + &class[1..];
        map.entry(
            bytes(domain),
            format!(
                "Provider {{ class: Class::{class}, operator: Operator({}), rule: {}, joined: {joined}, below: {}, listed: false }}",
                index + 1,
                rule_of.get(operator).unwrap_or(&0),
                entry.starts_with('.') || rule.is_some_and(|r| r.sub_domain),
            ),
        );
        let main = main_domain.entry(operator).or_insert(domain);
        if domain == format!("{operator}.com") {
            *main = domain;
        }
    }

    for fact in &listed {
        let index =
            fact.get(1).map_or(0, |name| operators.binary_search(&name.as_str()).expect("listed") + 1);
        map.entry(
            bytes(&fact[0]),
            format!(
                "Provider {{ class: Class::Free, operator: Operator({index}), rule: 0, joined: false, below: false, listed: true }}"
            ),
        );
    }

    let mut out = String::new();
    writeln!(out, "static PROVIDERS: phf::Map<&'static [u8], Provider> = {};", map.build()).unwrap();
    writeln!(
        out,
        "static ENDS: [u64; 1024] = {:?};",
        marks_of_all(known.iter().copied().chain(listed.iter().map(|fact| fact[0].as_str())))
    )
    .unwrap();
    writeln!(out, "static OPERATORS: [&str; {}] = [\"\",", operators.len() + 1).unwrap();
    for operator in &operators {
        writeln!(out, "{operator:?},").unwrap();
    }
    writeln!(out, "];\nstatic RULES: [BuiltInRule; {}] = [", rules.len()).unwrap();
    for (operator, rule) in &rules {
        let main = rule.joined.first().map(String::as_str).or(main_domain.get(operator.as_str()).copied());
        writeln!(
            out,
            "BuiltInRule {{ operator: {operator:?}, tag: {:?}, ignored: {}, same: {:?}, name_space: {:?}, \
             sub_domain: {}, issued: {}, issued_length: {:?} }},",
            rule.tag,
            rule.ignored,
            rule.same,
            main.unwrap_or_default(),
            rule.sub_domain,
            rule.issued,
            rule.issued_length,
        )
        .unwrap();
    }
    out.push_str("];\n");
    out
}

fn local_words() -> String {
    let mut words: BTreeMap<String, (String, String)> = BTreeMap::new();
    for fact in facts("roles.tsv") {
        let what = match fact[1].as_str() {
            "automatic sender" => "NoReply".to_owned(),
            purpose => format!("Account({purpose:?})"),
        };
        words.insert(fact[0].clone(), (what, "None".to_owned()));
    }
    for fact in facts("placeholders.tsv") {
        let placeholder = match fact[1].as_str() {
            "placeholder" => "Anywhere",
            "placeholder-twice" => "WithItsDomain",
            "made-up" => "MadeUp",
            other => panic!("placeholders.tsv: {other}"),
        };
        let word = words.entry(fact[0].clone()).or_insert(("None".to_owned(), String::new()));
        word.1 = format!("Some(Placeholder::{placeholder})");
    }
    let mut no_names = phf_codegen::Set::new();
    for fact in facts("no-names.txt") {
        no_names.entry(bytes(&fact[0]));
    }
    let mut map = phf_codegen::Map::new();
    let longest = words.keys().map(String::len).max().expect("words");
    for (word, (role, placeholder)) in &words {
        map.entry(bytes(word), format!("LocalWord {{ role: Role::{role}, placeholder: {placeholder} }}"));
    }
    let mut marks = marks_of_all(words.keys().map(String::as_str));
    // They are looked up for each address, and stay in the nearest cache where they are a quarter of that.
    let others = marks.split_off(WORD_MARKS);
    others.into_iter().enumerate().for_each(|(nth, more)| marks[nth % WORD_MARKS] |= more);
    format!(
        "static LOCAL_WORDS: phf::Map<&'static [u8], LocalWord> = {};\n\
         const LONGEST_WORD: usize = {longest};\n\
         static WORD_MARKS: [u64; {WORD_MARKS}] = {marks:?};\n\
         static NO_NAMES: phf::Set<&'static [u8]> = {};\n",
        map.build(),
        no_names.build(),
    )
}

/// Sixty-fours of marks that are distinguished where words are looked up.
const WORD_MARKS: usize = 256;

/// One bit for each of 65,536 marks of domains or words, set for those that are listed.
fn marks_of_all<'a>(listed: impl Iterator<Item = &'a str>) -> Vec<u64> {
    let mut marks = vec![0_u64; 1024];
    for word in listed {
        let mark = mark_of(word.as_bytes());
        marks[mark / 64] |= 1 << (mark % 64);
    }
    marks
}

include!("src/phrases/start_of_word.rs");
include!("src/data/mark.rs");

fn reserved() -> String {
    let names: Vec<(String, String)> =
        facts("reserved.tsv").into_iter().map(|fact| (fact[0].clone(), fact[1].clone())).collect();
    format!("static RESERVED: [(&str, &str); {}] = {names:?};\n", names.len())
}

fn slips() -> String {
    let mut domains = phf_codegen::Map::new();
    let mut tlds = phf_codegen::Map::new();
    for fact in facts("slips.tsv") {
        let map = if fact[0].starts_with(['.', ',']) { &mut tlds } else { &mut domains };
        map.entry(bytes(&fact[0]), format!("Typo {{ meant: {:?}, sure: {} }}", fact[1], fact[2] == "sure"));
    }
    let mut real = phf_codegen::Set::new();
    for fact in facts("not-slips.txt") {
        real.entry(bytes(&fact[0]));
    }
    // By length, so that a domain is held only against those that are at most one byte longer or shorter.
    let mut popular: Vec<String> = facts("popular.txt").into_iter().map(|fact| fact[0].clone()).collect();
    popular.sort_by_key(String::len);
    format!(
        "static DOMAIN_SLIPS: phf::Map<&'static [u8], Typo> = {};\n\
         static TLD_TYPOS: phf::Map<&'static [u8], Typo> = {};\n\
         static SLIP_ENDS: [u64; 1024] = {:?};\n\
         static NOT_SLIPS: phf::Set<&'static [u8]> = {};\n\
         static POPULAR: [&str; {}] = {popular:?};\n",
        domains.build(),
        tlds.build(),
        marks_of_all(facts("slips.tsv").iter().map(|fact| fact[0].as_str())),
        real.build(),
        popular.len(),
    )
}
