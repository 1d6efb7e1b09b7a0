//! Reads one part of a cell: where its addresses stand, and what touches them.

use smallvec::SmallVec;

use crate::cell::beside::{self, Words};
use crate::cell::list::{self, trimmed};
use crate::cell::peel::{self, Peeled};
use crate::cell::{Beside, Pieces, contact_remark};
use crate::cell_kind::CellKind;
use crate::codes::{Code, CodeSet};
use crate::found::Form;
use crate::local_traits::{entity_names, unscrambled};
use crate::policy::Policy;
use crate::repair::{Repair, Repairs};
use crate::span::Span;
use crate::text;
use crate::wrapping::{CLOSING_SIGNS, Wrapping};

/// An address in the making: ranges of the decoded cell.
#[derive(Clone, Debug)]
pub(super) struct Piece {
    pub(super) as_found: Span,
    pub(super) text: Span,
    pub(super) form: Form,
    pub(super) repairs: Repairs,
    pub(super) codes: CodeSet,
    /// What the codes are about.
    pub(super) marked: Option<Span>,
    pub(super) name: Option<Span>,
    pub(super) remark: SmallVec<[Span; 2]>,
    /// What was probably meant, and what that changes.
    pub(super) meant: Option<(Vec<u8>, &'static str)>,
}

impl Piece {
    fn of(as_found: Span, peeled: Peeled) -> Self {
        Piece {
            as_found,
            text: peeled.text,
            form: peeled.form,
            repairs: peeled.repairs,
            codes: CodeSet::EMPTY,
            marked: None,
            name: None,
            remark: SmallVec::new(),
            meant: None,
        }
    }

    /// A text without an @.
    pub(super) fn without_address(text: Span) -> Self {
        Piece { form: Form::None, ..Piece::of(text, Peeled::of(text)) }
    }

    fn mark(&mut self, code: Code, marked: Span) {
        self.codes.insert(code);
        self.marked = Some(marked);
    }
}

/// What stands in `text`, which has an @.
pub(super) fn pieces(text: &[u8], beside: Beside<'_>, policy: &Policy) -> Pieces {
    let mut out = Pieces::new();
    let all = Span::new(0, text.len());
    let mut whole = Peeled::of(trimmed(text, all));
    let outside = whole.text;
    list::drop_nothing(text, &mut whole);
    while whole.take_whole_layer(text) {}
    if is_whole(whole.text.of(text)) {
        out.push(Piece::of(outside, whole));
    } else {
        let parts = match memchr::memchr_iter(b'@', whole.text.of(text)).nth(1) {
            Some(_) => list::parts(text, whole.text),
            None => SmallVec::from_slice(&[whole.text]),
        };
        for part in parts {
            read_part(text, part, whole, beside, policy, &mut out);
        }
    }
    if let [only] = &mut out[..] {
        // What encloses it stands with it.
        only.as_found = outside;
        if outside.len() < text.len() {
            only.repairs.insert(Repair::Trimmed);
        }
    } else {
        for piece in &mut out {
            piece.form = Form::Several;
            piece.repairs.insert(Repair::OneOfSeveral);
        }
        beside::tell_replaced(text, &mut out);
        beside::tell_unread(text, &mut out);
    }
    out
}

/// Whether that is one address, be it a faulty one, and nothing to take off.
fn is_whole(text: &[u8]) -> bool {
    let ends_in_sign = text.last().is_some_and(|last| CLOSING_SIGNS.contains(last));
    let may_be_list =
        memchr::memchr2(b'/', b'|', text).is_some() && memchr::memchr_iter(b'@', text).count() > 1;
    let behind_at = memchr::memchr(b'@', text).map_or(&text[..0], |at| &text[at..]);
    let has_residue = memchr::memchr2(b'%', b'&', behind_at).is_some();
    peel::is_clean(text) && !ends_in_sign && !may_be_list && !has_residue && peel::unclosed(text).is_none()
}

/// Where an address may stand.
#[derive(Clone, Copy, Debug)]
struct Core {
    /// With all that touches it.
    outer: Span,
    peeled: Peeled,
    angle: bool,
}

/// Adds the addresses of one part of a list, or of a cell that is none.
fn read_part(text: &[u8], part: Span, whole: Peeled, beside: Beside<'_>, policy: &Policy, out: &mut Pieces) {
    let mut shown: SmallVec<[u8; 256]> = SmallVec::new();
    let (mut aside, mut text, mut warned) = (Aside::default(), text, false);
    if has_words(part.of(text)) {
        warned = contact_remark::is_in(part.of(text));
        shown.extend_from_slice(text);
        aside = set_aside(&mut shown, part);
        text = &shown;
    }
    let cores = cores(text, part, whole.enclosed, policy);
    let first = out.len();
    for (nth, core) in cores.iter().enumerate() {
        let from = nth.checked_sub(1).map_or(part.start, |before| cores[before].outer.end);
        let is_last = nth + 1 == cores.len();
        let before = Span::new(from, core.outer.start);
        let after = Span::new(core.outer.end, if is_last { part.end } else { core.outer.end });
        let mut peeled = core.peeled;
        peeled.repairs = peeled.repairs.union(whole.repairs);
        let mut piece = Piece::of(if cores.len() == 1 { part } else { core.outer }, peeled);
        if piece.form == Form::Plain {
            piece.form = whole.form;
        }
        aside.note(&mut piece);
        let before = beside::without_label(text, before, &mut piece);
        let words = Words { before, after, angle: core.angle, between: nth > 0 };
        read_beside(text, core, words, beside, policy, &mut piece);
        out.push(piece);
    }
    for piece in &mut out[first..] {
        if warned {
            let rejects = piece.codes.intersection(CodeSet::of(&[Code::BrokenAddress]));
            piece.codes = rejects.with(Code::DoNotContact);
            let comments = aside.comments.iter().copied();
            if piece.remark.is_empty() {
                piece.remark.extend(piece.name.take().into_iter().chain(comments));
                piece.remark.dedup();
            }
        }
    }
}

/// What is said of one address by what touches it and by the words beside it.
fn read_beside(
    text: &[u8],
    core: &Core,
    words: Words,
    beside: Beside<'_>,
    policy: &Policy,
    piece: &mut Piece,
) {
    if reduced(text, policy, piece) {
        return;
    }
    let address = piece.text.of(text);
    if let Some(read) = std::str::from_utf8(address).ok().and_then(unscrambled)
        && peel::is_clean(read.as_bytes())
    {
        piece.mark(Code::Mojibake, piece.text);
        piece.meant = Some((read.into_bytes(), "characters were read in the encoding they were written in"));
        return;
    }
    if let Some(opening) = beside::opening_apostrophe(text, piece.text, words) {
        piece.text.start = opening;
        return piece.mark(Code::BrokenAddress, Span::new(opening, opening + 1));
    }
    if !peel::is_clean(address) {
        piece.mark(Code::BrokenAddress, offending(address).shifted(piece.text.start));
        piece.meant = meant_by_broken(address, policy);
        return;
    }
    let is_blank = |span: Span| span.of(text).trim_ascii().is_empty();
    if is_blank(words.before) && is_blank(words.after) {
        return;
    }
    if !core.angle
        && let Some((broken, marked)) = beside::apart(text, piece.text, words, policy)
    {
        piece.text = broken;
        piece.mark(Code::BrokenAddress, marked);
        return;
    }
    beside::read(text, words, beside, piece);
}

impl Piece {
    /// Takes the words beside it for a name.
    pub(super) fn named(&mut self, name: Span, angle: bool) {
        let wrapping = if angle { Wrapping::NamedAngle } else { Wrapping::Named };
        self.repairs = self.repairs.union(wrapping.repairs());
        self.form = wrapping.form();
        self.name = Some(name);
    }

    /// Notes that a label in front of it was left out.
    pub(super) fn labelled(&mut self) {
        self.repairs = self.repairs.union(Wrapping::Labelled.repairs());
        let is_less = matches!(self.form, Form::Plain | Form::Marked | Form::WithTelephone);
        self.form = if is_less { Wrapping::Labelled.form() } else { self.form };
    }

    /// Notes that signs beside it were left out that say nothing.
    pub(super) fn note_signs(&mut self) {
        self.repairs = self.repairs.union(Wrapping::Marked.repairs());
        self.form = if self.form == Form::Plain { Wrapping::Marked.form() } else { self.form };
    }

    /// Takes the words beside it for something else.
    pub(super) fn with_words(&mut self, code: Code, words: impl IntoIterator<Item = Span>) {
        self.remark.extend(words);
        let marked = self.remark.first().copied().unwrap_or(self.text);
        self.mark(code, marked);
        self.repairs = self.repairs.union(Wrapping::WithinText.repairs());
        self.form = Wrapping::WithinText.form();
    }
}

/// Reduces the text to the address in it where something else touches that which is known; returns whether it did.
fn reduced(text: &[u8], policy: &Policy, piece: &mut Piece) -> bool {
    let all = piece.text;
    let (address, code, reason) = if let Some(formula) = without_formula(text, all, policy) {
        (formula, Code::FormulaLike, "the signs of a formula were removed")
    } else if let Some(address) = without_residue(text, all) {
        (address, Code::Residue, "what was left of an encoding was removed")
    } else if let Some(sign) = peel::unclosed(all.of(text)) {
        (Span::new(all.start + sign, all.end), Code::OddBeginning, "the sign in front was removed")
    } else {
        return false;
    };
    let in_front = Span::new(all.start, address.start);
    piece.mark(code, if in_front.is_empty() { Span::new(address.end, all.end) } else { in_front });
    piece.meant = Some((address.of(text).to_vec(), reason));
    piece.repairs = piece.repairs.union(Wrapping::Marked.repairs());
    (piece.text, piece.form) = (address, Wrapping::Marked.form());
    true
}

/// `="ada@host.org"` and `=HYPERLINK("mailto:ada@host.org", …)`, as spreadsheets write them: the address.
fn without_formula(text: &[u8], span: Span, policy: &Policy) -> Option<Span> {
    let formula = span.of(text).strip_prefix(b"=").filter(|formula| formula.contains(&b'"'))?;
    let mut first = None;
    text::find(formula, policy, |hit| {
        first.get_or_insert(hit.bare.shifted(span.start + 1));
    });
    first
}

/// `ada@host.org%20`, `ada@host.org&nbsp`: the address in front of what is left of an encoding.
fn without_residue(text: &[u8], span: Span) -> Option<Span> {
    let at = memchr::memchr(b'@', span.of(text))?;
    let end = memchr::memchr2(b'%', b'&', &span.of(text)[at..]).map(|end| at + end)?;
    let (address, rest) = span.of(text).split_at(end);
    let encodes = |code: &[u8]| code.len() == 3 && code[1..].iter().all(u8::is_ascii_hexdigit);
    let is_residue = rest.chunks(3).all(encodes) || entity_names().any(|name| rest.starts_with(name));
    (is_residue && peel::is_clean(address)).then(|| Span::new(span.start, span.start + end))
}

/// The first character that keeps `address` from being one.
fn offending(address: &[u8]) -> Span {
    let place = (0..address.len()).find(|&at| !peel::is_one_word(&address[at..=at]) && address[at] < 0x80);
    let at = place.or_else(|| memchr::memchr(b'@', address).map(|at| at.saturating_sub(1))).unwrap_or(0);
    Span::new(at, (at + 1).min(address.len()))
}

/// The address that a broken one starts with, where something that is no part of any follows, or the one without the quotes in it.
fn meant_by_broken(address: &[u8], policy: &Policy) -> Option<(Vec<u8>, &'static str)> {
    let at = memchr::memchr(b'@', address).filter(|_| memchr::memchr_iter(b'@', address).count() == 1)?;
    let (local, domain) = address.split_at(at);
    if peel::is_one_word(local) {
        let mut first = None;
        text::find(address, policy, |hit| {
            first.get_or_insert(hit.bare);
        });
        // Behind a comma the domain may go on.
        let ends_there = |bare: &Span| address.get(bare.end).is_some_and(|b| !matches!(b, b',' | b';'));
        let bare = first.filter(|bare| bare.start == 0 && ends_there(bare))?;
        return Some((bare.of(address).to_vec(), "what follows it was removed"));
    }
    let without: Vec<u8> = local.iter().copied().filter(|b| *b != b'"').collect();
    let quotes_only = without.len() < local.len() && peel::is_one_word(&without) && peel::is_one_word(domain);
    quotes_only.then(|| ([&without[..], domain].concat(), "quotation marks inside were removed"))
}

/// Where addresses may stand in `part`, from left to right.
fn cores(text: &[u8], part: Span, enclosed: bool, policy: &Policy) -> SmallVec<[Core; 2]> {
    let mut cores: SmallVec<[Core; 2]> = SmallVec::new();
    let mut from = part.start;
    while let Some(at) = memchr::memchr(b'@', &text[from..part.end]).map(|at| from + at) {
        let least = cores.last().map_or(part.start, |core: &Core| core.outer.end);
        let core = in_angle_brackets(text, at, least, part.end)
            .unwrap_or_else(|| touching(text, at, least, part.end, enclosed, policy));
        from = core.outer.end.max(at + 1);
        cores.push(core);
    }
    without_own_name(text, cores)
}

/// `ada@host <mailto:ada@host>`: the one in front is what a mail program showed for the other.
fn without_own_name(text: &[u8], cores: SmallVec<[Core; 2]>) -> SmallVec<[Core; 2]> {
    match &cores[..] {
        [shown, linked] if linked.angle && !shown.angle => {
            let same = shown.peeled.text.of(text).eq_ignore_ascii_case(linked.peeled.text.of(text));
            let mut only = *linked;
            only.peeled.note(Wrapping::NamedAngle);
            only.outer.start = shown.outer.start;
            if same { SmallVec::from_slice(&[only]) } else { cores }
        }
        _ => cores,
    }
}

fn in_angle_brackets(text: &[u8], at: usize, least: usize, end: usize) -> Option<Core> {
    let open = memchr::memrchr2(b'<', b'>', &text[least..at]).map(|open| least + open)?;
    let close = memchr::memchr2(b'<', b'>', &text[at..end]).map(|close| at + close)?;
    if text[open] != b'<' || text[close] != b'>' {
        return None;
    }
    let mut peeled = Peeled::of(trimmed(text, Span::new(open + 1, close)));
    peeled.note(Wrapping::Angle);
    peeled.enclosed = true;
    peeled.take_all(text);
    Some(Core { outer: Span::new(open, close + 1), peeled, angle: true })
}

/// All that touches the @ at `at`.
fn touching(text: &[u8], at: usize, least: usize, end: usize, enclosed: bool, policy: &Policy) -> Core {
    let ends_word = |b: &u8| b.is_ascii_whitespace();
    let quoted = opening_quote(text, at, least);
    // A list of words may have lost the @ of one.
    let ends_before = |b: &u8| ends_word(b) || matches!(b, b',' | b';');
    let after_last = |ends: &dyn Fn(&u8) -> bool| {
        text[least..at].iter().rposition(ends).map_or(least, |border| least + border + 1)
    };
    let word = || {
        let start = after_last(&ends_before);
        // Behind other words these signs separate as well.
        let has_words = text[least..start].iter().any(u8::is_ascii_alphanumeric);
        if has_words { after_last(&|b| ends_before(b) || matches!(b, b'/' | b'|')) } else { start }
    };
    let start = quoted.unwrap_or_else(word);
    let behind = |b: &u8| ends_word(b) || *b == b'<';
    let stop = text[at..end].iter().position(behind).map_or(end, |space| at + space);
    let stop = beside::end_before_separator(text, at + 1, stop, policy);
    let outer = Span::new(start, stop);
    let mut peeled = Peeled::of(outer);
    peeled.enclosed = enclosed;
    peeled.take_all(text);
    Core { outer, peeled, angle: false }
}

/// Where the quotes open that close before the @ at `at`, at the start of a word.
fn opening_quote(text: &[u8], at: usize, least: usize) -> Option<usize> {
    if at <= least || text[at - 1] != b'"' {
        return None;
    }
    let open = text[least..at - 1].iter().rposition(|&b| b == b'"').map(|open| least + open)?;
    let starts_word =
        open == least || text[open - 1].is_ascii_whitespace() || matches!(text[open - 1], b'<' | b'(' | b':');
    starts_word.then_some(open)
}

/// Whether there may be anything in a part of a list beside what touches its address.
fn has_words(part: &[u8]) -> bool {
    !part.is_ascii()
        || part
            .iter()
            .any(|b| b.is_ascii_whitespace() || matches!(b, b'(' | b'[' | b'<' | b',' | b';' | b'|'))
}

/// What stands beside an address and neither belongs to it nor says anything of it.
#[derive(Debug, Default)]
struct Aside {
    comments: SmallVec<[Span; 2]>,
    telephone: bool,
    /// Tags of HTML.
    markup: bool,
}

impl Aside {
    fn note(&self, piece: &mut Piece) {
        if self.markup {
            piece.repairs.insert(Repair::Unwrapped);
        }
        if self.telephone {
            piece.repairs = piece.repairs.union(Wrapping::WithTelephone.repairs());
            let is_less = matches!(piece.form, Form::Plain | Form::Marked);
            piece.form = if is_less { Form::WithTelephone } else { piece.form };
        }
        if let Some(&comment) = self.comments.first() {
            piece.named(comment, false);
        }
    }
}

/// Blanks comments in brackets that close and telephone numbers.
fn set_aside(text: &mut [u8], part: Span) -> Aside {
    let mut aside = Aside::default();
    blank_wide_spaces(&mut text[part.start..part.end]);
    aside.markup = blank_markup(&mut text[part.start..part.end]);
    if memchr::memchr2(b'(', b'[', part.of(text)).is_some() {
        while let Some(group) = comment(text, part) {
            aside.comments.push(Span::new(group.start + 1, group.end - 1));
            text[group.start..group.end].fill(b' ');
        }
    }
    if part.of(text).iter().any(u8::is_ascii_digit) {
        while let Some(number) = telephone(text, part) {
            aside.telephone = true;
            text[number.start..number.end].fill(b' ');
        }
    }
    aside
}

/// Spaces outside ASCII, as pages of the web have them, become ordinary ones.
fn blank_wide_spaces(text: &mut [u8]) {
    if text.is_ascii() {
        return;
    }
    for at in 0..text.len() {
        let width = match text[at..] {
            [0xC2, 0xA0, ..] => 2,
            [0xE2, 0x80, 0x80..=0x8A | 0xAF, ..] => 3,
            _ => 0,
        };
        text[at..at + width].fill(b' ');
    }
}

/// Blanks tags of HTML that say no more than how something looks or where a line ends; returns whether there were any.
fn blank_markup(text: &mut [u8]) -> bool {
    const TAGS: [&str; 14] =
        ["br", "p", "b", "i", "u", "em", "strong", "span", "div", "td", "tr", "li", "font", "nobr"];
    let (mut from, mut found) = (0, false);
    while let Some(open) = memchr::memchr(b'<', &text[from..]).map(|open| from + open) {
        from = open + 1;
        let Some(close) = memchr::memchr2(b'>', b'@', &text[open..]).map(|close| open + close) else {
            break;
        };
        let inside = text[open + 1..close].trim_ascii();
        let inside = inside.strip_prefix(b"/").unwrap_or(inside);
        let name = inside.split(|b| !b.is_ascii_alphanumeric()).next().unwrap_or_default();
        if text[close] == b'>' && TAGS.iter().any(|tag| name.eq_ignore_ascii_case(tag.as_bytes())) {
            text[open..=close].fill(b' ');
            found = true;
        }
    }
    found
}

/// The first group in brackets without an @ that stands apart on at least one side.
fn comment(text: &[u8], part: Span) -> Option<Span> {
    let is_border = |b: Option<&u8>| {
        b.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>' | b'.'))
    };
    let mut from = part.start;
    while let Some(open) = memchr::memchr2(b'(', b'[', &text[from..part.end]).map(|open| from + open) {
        from = open + 1;
        let closing = if text[open] == b'(' { b')' } else { b']' };
        let close = memchr::memchr(closing, &text[open..part.end]).map(|close| open + close)?;
        let is_number = CellKind::of(&text[open..=close], 0) == CellKind::Telephone;
        let before = (open > part.start).then(|| &text[open - 1]);
        let behind = (close + 1 < part.end).then(|| &text[close + 1]);
        // `[name]@host` is a local part that was never filled in.
        let starts_apart = is_border(before) && behind != Some(&b'@');
        let ends_apart =
            behind.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>'));
        let is_empty = !text[open + 1..close].iter().any(|b| b.is_ascii_alphanumeric() || *b >= 0x80);
        let digits = text[open + 1..close].iter().all(|b| b.is_ascii_digit() || matches!(b, b' ' | b'+'));
        if !is_empty
            && !is_number
            && !digits
            && (starts_apart || ends_apart)
            && !text[open + 1..close].iter().any(|&b| b == b'@' || b == text[open])
        {
            return Some(Span::new(open, close + 1));
        }
    }
    None
}

/// The first telephone number that stands apart, with what it is called.
fn telephone(text: &[u8], part: Span) -> Option<Span> {
    let is_part =
        |b: u8| b.is_ascii_digit() || matches!(b, b' ' | b'+' | b'-' | b'.' | b'/' | b'(' | b')' | b'\t');
    let mut start = part.start;
    while start < part.end {
        let opens = text[start].is_ascii_digit() || matches!(text[start], b'+' | b'(');
        let apart =
            start == part.start || matches!(text[start - 1], b' ' | b'\t' | b',' | b';' | b'|' | b'/' | b':');
        if !opens || !apart {
            start += 1;
            continue;
        }
        let end = (start..part.end).find(|&at| !is_part(text[at])).unwrap_or(part.end);
        // Where it runs into a word it ends at the space before.
        let runs_on = end < part.end && !matches!(text[end], b',' | b';' | b'|' | b'<');
        let end = if runs_on {
            (start..end).rev().find(|&at| matches!(text[at], b' ' | b'\t')).unwrap_or(start)
        } else {
            end
        };
        let number = trimmed(text, Span::new(start, end.max(start)));
        let bare = number.of(text).trim_ascii_end();
        let bare = bare.strip_suffix(b"/").or(bare.strip_suffix(b"-")).unwrap_or(bare).trim_ascii_end();
        if CellKind::of(bare, 0) == CellKind::Telephone {
            return Some(Span::new(
                beside::label_of_telephone(text, part.start, start),
                number.start + bare.len(),
            ));
        }
        start = (start..part.end)
            .find(|&at| matches!(text[at], b' ' | b',' | b';' | b'|'))
            .map_or(part.end, |at| at + 1);
    }
    None
}
