//! Values to try a rule with: addresses of every kind the rule speaks of, and what people type instead of them.

use ypogram_core::entry_rule::{Demand, EntryRule};
use ypogram_core::lists;

use crate::jobs::export::judged::EntryJudge;

/// Local parts: right, odd and wrong.
const LOCALS: [&str; 46] = [
    "night.owl",
    "ada",
    "a",
    "o'neil",
    "Ada.Lovell",
    "ada+news",
    "ada_l",
    "ada-l",
    "4711",
    "x.y.z",
    "a=b",
    "r&d",
    "!#$%&*/?^`{|}~",
    "jörg",
    "зоя",
    "光",
    "\"ada lovell\"",
    "\"ada\"",
    "\"a@b\"",
    "\"a\\\"b\"",
    "\"a..b\"",
    "info",
    "noreply",
    "none",
    "noemail",
    "n.a",
    "test",
    ".ada",
    "ada.",
    "a..b",
    "",
    "a b",
    "a,b",
    "a;b",
    "a:b",
    "(ada)",
    "<ada",
    "[ada]",
    "a\\b",
    "a\"b",
    "ada\u{200B}",
    "‘ada’",
    "ａｄａ",
    "%20ada",
    "{name}",
    "ada%host.org",
];

/// Domains: right, odd and wrong.
const DOMAINS: [&str; 44] = [
    "quarryfarm.org",
    "mill-street.co.uk",
    "Quarryfarm.ORG",
    "a.b.c.quarryfarm.org",
    "4711.org",
    "gmail.com",
    "web.de",
    "mailinator.com",
    "sub.mailinator.com",
    "icloud.com",
    "bücher.de",
    "xn--bcher-kva.de",
    "пример.рф",
    "xn--e1afmkfd.xn--p1ai",
    "müller.quarryfarm.org",
    "fernhollow.example",
    "example.com",
    "mail.example.org",
    "nowhere.invalid",
    "printer.local",
    "localhost",
    "quarryfarm",
    "quarryfarm.zzzz",
    "quarryfarm.c",
    "192.0.2.7",
    "[192.0.2.7]",
    "[IPv6:2001:db8::1]",
    "co.uk",
    "none.org",
    "xn--zzzzzz.org",
    "-mill.org",
    "mill-.org",
    "mi--ll.org",
    "m_ill.org",
    "mill..org",
    ".mill.org",
    "mill.org.",
    "mi ll.org",
    "mill,org",
    "mill.org/x",
    "mill.org:25",
    "mi＠ll.org",
    "mill。org",
    "",
];

/// What stands around an address, at its mark.
const AROUND: [&str; 22] = [
    "@@",
    " @@",
    "@@ ",
    "\t@@",
    "@@\n",
    "\u{A0}@@",
    "<@@>",
    "mailto:@@",
    "Ada Lovell <@@>",
    "@@.",
    "@@,",
    "@@;",
    "(@@)",
    "'@@'",
    "\"@@\"",
    "E-Mail: @@",
    "@@ (home)",
    "@@, @@",
    "@@;@@",
    "\u{FEFF}@@",
    "\u{202E}@@",
    "http://@@",
];

/// Characters that go in, or take the place of another.
const CHARACTERS: [char; 44] = [
    '.', '@', '-', '_', '+', ' ', '"', '\'', '\\', ',', ';', ':', '(', ')', '<', '>', '[', ']', '!', '%',
    '&', '=', '/', '*', '{', '|', '~', '#', 'a', 'Z', '7', 'é', 'ß', 'ж', '漢', '\u{A0}', '\u{AD}',
    '\u{200B}', '\u{202E}', '\u{3000}', '．', '\u{7F}', '\t', '😀',
];

/// `count` different values and a few more, always the same for one rule. One in four is an address of the rule's own lists, formats and patterns.
pub fn values(rule: &EntryRule, judge: &EntryJudge, count: usize) -> Vec<String> {
    let mut made = Made { state: 0x9E37_79B9_7F4A_7C15, values: Vec::new(), seen: hashbrown::HashSet::new() };
    at_limits(rule).into_iter().chain(of_house(judge)).for_each(|value| made.add(value));
    let listed = listed(rule, judge);
    while made.values.len() < count {
        let domain = match made.below(4) {
            0 if !listed.is_empty() => made.one_of(&listed).clone(),
            1 => (*made.one_of(&DOMAINS[..8])).to_owned(),
            _ => (*made.one_of(&DOMAINS)).to_owned(),
        };
        let locals = if made.below(2) == 0 { &LOCALS[..12] } else { &LOCALS[..] };
        let local = *made.one_of(locals);
        let mut value = format!("{local}@{domain}");
        match made.below(6) {
            0 => value = made.one_of(&AROUND).replace("@@", &value),
            1 | 2 => value = made.changed(&value),
            _ => {}
        }
        made.add(value);
    }
    made.values
}

/// Values at and beyond each limit of length.
fn at_limits(rule: &EntryRule) -> Vec<String> {
    let text = |letters: usize| "a".repeat(letters);
    let mut values = Vec::new();
    for letters in [64, 65] {
        values.push(format!("{}@quarryfarm.org", text(letters)));
        values.push(format!("ada@{}.org", text(letters - 1)));
        values.push(format!("{}@quarryfarm.org", "é".repeat(letters / 2)));
    }
    let longest = rule.longest.unwrap_or(254);
    for bytes in [longest - 1, longest, longest + 1, 254, 255, 320] {
        let mut domain = "org".to_owned();
        while domain.len() + 6 < bytes {
            let label = (bytes - domain.len() - 6).min(63);
            domain.insert_str(0, &format!("{}.", text(label)));
        }
        values.push(format!("night@{domain}"));
        values.push(format!("{}@{domain}", text(bytes.saturating_sub(domain.len() + 1).max(1))));
    }
    values.extend(
        ["@", "ada", "ada lovell", "", " ", "n/a", "+49 30 901820", "https://quarryfarm.org"]
            .map(str::to_owned),
    );
    values
}

/// What the house's formats and patterns say fits them, and nearly does.
fn of_house(judge: &EntryJudge) -> Vec<String> {
    let mut values = Vec::new();
    for format in judge.formats() {
        let described = format.describe();
        values.extend(described.fitting.into_iter().map(|(_, address)| address));
        values.extend(described.failing.into_iter().map(|(_, address, _)| address));
    }
    for pattern in judge.patterns() {
        let described = pattern.describe();
        values.extend(described.fitting.into_iter().chain(described.failing));
    }
    values
}

/// Domains that the rule's lists name, the house's own, and names below them.
fn listed(rule: &EntryRule, judge: &EntryJudge) -> Vec<String> {
    let mut names = Vec::new();
    for condition in &rule.conditions {
        match &condition.demand {
            Demand::NotAt(domains, but) => {
                names.extend(domains.iter().map(|domain| domain.name.clone()).chain(but.iter().cloned()));
            }
            Demand::Below(endings) => {
                names.extend(endings.iter().step_by(7).map(|ending| format!("mill.{ending}")))
            }
            _ => {}
        }
    }
    names.extend(judge.formats().iter().flat_map(|format| format.domains().map(str::to_owned)));
    let own = lists::built_in().into_iter().flat_map(|list| list.entries).step_by(40);
    names.extend(own.map(|(domain, _)| domain).filter(|domain| domain.contains('.')));
    let below: Vec<String> = names.iter().step_by(5).map(|name| format!("mail.{name}")).collect();
    names.extend(below);
    names.sort_unstable();
    names.dedup();
    names
}

struct Made {
    state: u64,
    values: Vec<String>,
    seen: hashbrown::HashSet<String>,
}

impl Made {
    fn add(&mut self, value: String) {
        if self.seen.insert(value.clone()) {
            self.values.push(value);
        }
    }

    /// A number below `bound` (xorshift).
    fn below(&mut self, bound: usize) -> usize {
        self.state ^= self.state << 13;
        self.state ^= self.state >> 7;
        self.state ^= self.state << 17;
        (self.state >> 33) as usize % bound
    }

    fn one_of<'t, T>(&mut self, all: &'t [T]) -> &'t T {
        &all[self.below(all.len())]
    }

    /// `value` with one character more, less or another.
    fn changed(&mut self, value: &str) -> String {
        let mut chars: Vec<char> = value.chars().collect();
        let at = self.below(chars.len());
        let c = *self.one_of(&CHARACTERS);
        match self.below(3) {
            0 => chars.insert(at, c),
            1 => chars[at] = c,
            _ => drop(chars.remove(at)),
        }
        chars.into_iter().collect()
    }
}
