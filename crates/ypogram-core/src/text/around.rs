//! How far an address reaches to both sides of its @, and what shows that it is none.

use crate::alike::Alike;
use crate::bytes::{self, ATEXT, BORDER, CLASS, DOT, HIGH, HYPHEN, LDH, SEPARATES, UPPER};
use crate::judge::Judge;
use crate::labels::Labels;
use crate::policy::Policy;
use crate::scan::Scan;
use crate::span::Span;
use crate::text::passed::Passed;
use crate::text::usual::Usual;
use crate::{domain, facts, local_part};

/// The address around an @.
pub(super) struct Bare {
    pub(super) span: Span,
    /// What was seen of it on the way, where it is plain ASCII.
    pub(super) scan: Option<Scan>,
}

/// The address around the @ at `at`, not reaching back before `least`; `usual` is what is known of it already.
#[inline(always)]
pub(super) fn bounds(
    text: &[u8],
    at: usize,
    least: usize,
    usual: Option<&Usual<'_>>,
    endings: &mut impl Endings,
    any_ending: bool,
) -> Result<Bare, (Span, Passed)> {
    let (local, word) = match usual {
        Some(usual) => (usual.local(), usual.word()),
        None => (local_before(text, at, least), word_after(text, at + 1)),
    };
    let start = local.start;
    let pass = |reason| Err((Span::new(start, word.end), reason));
    let after = text.get(word.end).copied();
    if after == Some(b'@') || at > least && start == at && text[at - 1] == b'@' {
        return pass(Passed::SeveralAtSigns);
    }
    if word.end == at + 1 {
        return pass(match (start == at, after) {
            (false, Some(b'[')) => Passed::Literal,
            (true, _) => Passed::Alone,
            _ => Passed::Incomplete,
        });
    }
    if start == at {
        return pass(Passed::Handle);
    }
    if start > least && text[start - 1] == b'@' {
        return pass(Passed::SeveralAtSigns);
    }
    if let Some(reason) = context(text, start, word.end) {
        return pass(reason);
    }
    let (end, whole) = match ending(&text[at + 1..word.end], &word, endings) {
        Ending::Known => (word.end, true),
        // ‘…@host.org.Then’: the sentence goes on without a space.
        Ending::KnownUpTo(shorter) => (at + 1 + shorter, false),
        Ending::None(_) if any_ending && word.has_two_labels() => (word.end, true),
        Ending::None(reason) => return pass(reason),
    };
    let bad_dots = text[start] != b'"' && (local.double_dot || text[at - 1] == b'.');
    if bad_dots || at - start > 64 || end - at > 255 {
        return pass(Passed::Malformed);
    }
    let plain = local.seen != 0 && (local.seen | word.seen) & HIGH == 0;
    let scan = (plain && whole && local.whole).then(|| Scan::of(at - start, local.seen, true));
    Ok(Bare { span: Span::new(start, end), scan })
}

/// What may hold an encoded address around `at`: the word it stands in.
pub(super) fn window(text: &[u8], at: usize, least: usize) -> Span {
    let is_border = |b: &u8| b.is_ascii_whitespace() || matches!(b, b'"' | b'<' | b'>' | b'\'');
    let from = at.saturating_sub(400).max(least);
    let start = text[from..at].iter().rposition(is_border).map_or(from, |i| from + i + 1);
    let to = (at + 400).min(text.len());
    let end = text[at..to].iter().position(is_border).map_or(to, |i| at + i);
    Span::new(start, end)
}

/// A local part as far as it reaches back.
pub(super) struct Local {
    pub(super) start: usize,
    pub(super) double_dot: bool,
    /// The classes of its characters; none for a quoted one.
    pub(super) seen: u16,
    /// Nothing was cut off in front of what they were seen in.
    pub(super) whole: bool,
}

#[inline]
fn local_before(text: &[u8], at: usize, least: usize) -> Local {
    if at > least && text[at - 1] == b'"' {
        let start = quoted_before(text, at, least).unwrap_or(at);
        return Local { start, double_dot: false, seen: 0, whole: true };
    }
    let floor = at.saturating_sub(257).max(least);
    let (mut start, mut seen, mut double, mut after) = (at, 0, 0, 0);
    loop {
        while start > floor {
            let class = CLASS[usize::from(text[start - 1])];
            if class & (ATEXT | DOT) == 0 {
                break;
            }
            double |= class & after;
            seen |= class;
            after = class;
            start -= 1;
        }
        let Some(width) = wide_letter_before(&text[floor..start]) else { break };
        start -= width;
        (seen, after) = (seen | HIGH, HIGH);
    }
    let run = start;
    let mut double_dot = double & DOT != 0;
    let before = text[least..start].last().copied();
    // In an address of that scheme escapes stand for characters of its own (RFC 6068 §2).
    let is_uri = seen & SEPARATES != 0 && ends_ignoring_case(&text[least..start], b"mailto:");
    if seen & SEPARATES != 0 || double_dot || before == Some(b'\\') {
        start += glued_in_front(&text[start..at], before, is_uri);
        double_dot = double_dot && memchr::memmem::find(&text[start..at], b"..").is_some();
    }
    while start < at
        && matches!(text[start], b'.' | b'-' | b'+' | b'\'' | b'&' | b'%')
        && !(is_uri && text[start] == b'%')
    {
        start += 1;
    }
    // ‘_ada@host.org_’ is emphasis.
    if text.get(start) == Some(&b'_') && !text[start..at].contains(&b'.') && emphasis_closes(text, at) {
        start += 1;
    }
    Local { start, double_dot, seen, whole: start == run }
}

/// How many octets the letter outside ASCII at the end of `text` has; none where there is none.
#[inline]
fn wide_letter_before(text: &[u8]) -> Option<usize> {
    if !bytes::is(*text.last()?, HIGH) {
        return None;
    }
    let (c, width) = bytes::last_char(text)?;
    (c.is_alphanumeric() || is_hidden_inside(c)).then_some(width)
}

fn emphasis_closes(text: &[u8], at: usize) -> bool {
    text.get(word_after(text, at + 1).end) == Some(&b'_')
}

/// How many octets at the start of `run` belong to what is glued in front: a label and its `=`, a path, an escape unless it stands
/// in a URI.
fn glued_in_front(run: &[u8], before: Option<u8>, is_uri: bool) -> usize {
    let mut cut =
        run.iter().rposition(|&b| bytes::is(b, SEPARATES) && !matches!(b, b'%' | b'&')).map_or(0, |i| i + 1);
    // In a query, `&` separates as well.
    if run[..cut].contains(&b'=') || run[..cut].contains(&b'?') {
        cut = run.iter().rposition(|&b| b == b'&').map_or(cut, |i| cut.max(i + 1));
    }
    // `%3Aada@…`: an escape that stands for a separator.
    if let Some(escape) = memchr::memrchr(b'%', run)
        && escape >= cut
        && !is_uri
        && crate::decoded::percent_byte(&run[escape..])
            .is_some_and(|b| !b.is_ascii_alphanumeric() && !matches!(b, b'.' | b'_' | b'-' | b'+'))
    {
        cut = escape + 3;
    }
    // `\nada@…` in a string literal: the letter belongs to the escape.
    if cut == 0 && before == Some(b'\\') && matches!(run.first(), Some(b'n' | b't' | b'r')) {
        cut = 1;
    }
    // An ellipsis ends what stands before it.
    match memchr::memmem::rfind(run, b"...") {
        Some(dots) if dots + 3 > cut => dots + 3,
        _ => cut,
    }
}

/// Where the quoted local part before `at` starts.
fn quoted_before(text: &[u8], at: usize, least: usize) -> Option<usize> {
    let from = at.saturating_sub(70).max(least);
    let open = text[from..at - 1].iter().rposition(|&b| b == b'"').map(|i| from + i)?;
    let quoted = &text[open..at];
    let border = open == 0
        || bytes::is(text[open - 1], bytes::SPACE)
        || matches!(text[open - 1], b'<' | b'(' | b',' | b';' | b':');
    let whole = local_part::closing_quote(quoted) == Some(quoted.len() - 1);
    let printing = quoted.iter().all(|b| !b.is_ascii_control());
    (border && whole && quoted.len() > 2 && printing).then_some(open)
}

/// Characters that show nothing, left inside a word by a copy.
fn is_hidden_inside(c: char) -> bool {
    matches!(c, '\u{AD}' | '\u{200B}'..='\u{200D}' | '\u{2060}' | '\u{FEFF}') || is_full_width(c)
}

fn is_full_width(c: char) -> bool {
    matches!(c, '\u{FF0E}' | '\u{FF0D}' | '\u{FF3F}' | '\u{FF0B}')
}

/// The word behind an @, as far as it can be a domain.
pub(super) struct Word {
    pub(super) end: usize,
    /// The classes of its characters.
    pub(super) seen: u16,
    /// The last dot in it, counted from its start.
    pub(super) last_dot: Option<usize>,
}

impl Word {
    fn has_two_labels(&self) -> bool {
        self.last_dot.is_some() || self.seen & HIGH != 0
    }
}

#[inline]
fn word_after(text: &[u8], start: usize) -> Word {
    let most = text.len().min(start + 1024);
    // A dot in the first place counts as one too many.
    let (mut end, mut seen, mut before, mut twice, mut dot) = (start, 0, DOT, 0, None);
    while end < most {
        let class = CLASS[usize::from(text[end])];
        if class & (LDH | DOT) == 0 {
            break;
        }
        twice |= class & before & (DOT | HYPHEN);
        seen |= class;
        before = class;
        dot = if class & DOT != 0 { Some(end - start) } else { dot };
        end += 1;
    }
    let goes_on = text.get(end).is_some_and(|&b| end == most || bytes::is(b, HIGH));
    if twice != 0 || goes_on {
        return odd_word_after(text, start);
    }
    while end > start && matches!(text[end - 1], b'-' | b'.') {
        end -= 1;
        if dot == Some(end - start) {
            dot = memchr::memrchr(b'.', &text[start..end]);
        }
    }
    Word { end, seen, last_dot: dot }
}

/// Like [`word_after`] where letters outside ASCII, dashes or doubled dots have to be looked at.
#[cold]
fn odd_word_after(text: &[u8], start: usize) -> Word {
    let end = domain_end(text, start);
    let word = &text[start..end];
    let seen = word.iter().fold(0, |seen, &b| seen | CLASS[usize::from(b)]);
    Word { end, seen, last_dot: memchr::memrchr(b'.', word) }
}

/// Where the word behind the @ ends, as far as it can be a domain.
fn domain_end(text: &[u8], start: usize) -> usize {
    let mut end = start;
    let mut dash = false;
    while end < text.len() && end - start <= 1024 {
        let b = text[end];
        dash |= b == b'-' && text.get(end + 1) == Some(&b'-');
        let joins =
            b == b'.' && end > start && text.get(end + 1).is_some_and(|&next| bytes::is(next, LDH | HIGH));
        if bytes::is(b, LDH) || joins {
            end += 1;
        } else if bytes::is(b, HIGH) {
            let Some((c, width)) = bytes::first_char(&text[end..]) else { break };
            let dot = matches!(c, '\u{FF0E}' | '\u{3002}');
            if !c.is_alphanumeric() && !is_hidden_inside(c) && !dot && !is_mark(c) {
                break;
            }
            end += width;
        } else {
            break;
        }
    }
    // Two hyphens are a dash, but for those of an A-label.
    let mut dashes = (start..end.saturating_sub(1)).filter(|&i| &text[i..i + 2] == b"--");
    let is_a_label = |dash: usize| {
        let before = &text[start..dash];
        before.eq_ignore_ascii_case(b"xn")
            || before.len() > 2 && before[before.len() - 3..].eq_ignore_ascii_case(b".xn")
    };
    if dash && let Some(dash) = dashes.find(|&dash| !is_a_label(dash)) {
        end = dash;
    }
    while end > start && matches!(text[end - 1], b'-' | b'.') {
        end -= 1;
    }
    end
}

/// Vowel signs and accents that follow their letter.
fn is_mark(c: char) -> bool {
    unicode_normalization::char::is_combining_mark(c)
}

/// What an ending is.
enum Ending {
    Known,
    /// Only without the last label.
    KnownUpTo(usize),
    None(Passed),
}

fn ending(domain: &[u8], word: &Word, endings: &mut impl Endings) -> Ending {
    if !word.has_two_labels() {
        let number = domain.first().is_some_and(|b| b.is_ascii_digit())
            || domain.first() == Some(&b'v') && domain.get(1).is_some_and(u8::is_ascii_digit);
        return Ending::None(if number { Passed::Version } else { Passed::OneLabel });
    }
    let last = &domain[word.last_dot.map_or(0, |dot| dot + 1)..];
    // A capital behind a dot, after labels without any: the next sentence.
    if word.seen & UPPER != 0
        && let Some(dot) = word.last_dot
        && last[0].is_ascii_uppercase()
        && !domain[..dot].iter().any(u8::is_ascii_uppercase)
        && domain[..dot].contains(&b'.')
        && endings.are_known(&domain[..dot], word.seen & !UPPER)
    {
        return Ending::KnownUpTo(dot);
    }
    if endings.are_known(domain, word.seen) {
        return Ending::Known;
    }
    Ending::None(if last.iter().all(u8::is_ascii_digit) || is_version(domain) {
        Passed::Version
    } else if is_file_ending(last) {
        Passed::FileName
    } else {
        Passed::UnknownEnding
    })
}

fn is_version(domain: &[u8]) -> bool {
    let number = domain.strip_prefix(b"v").unwrap_or(domain);
    number.first().is_some_and(u8::is_ascii_digit)
        && number.iter().filter(|b| b.is_ascii_digit() || **b == b'.').count() * 2 > number.len()
}

fn is_file_ending(last: &[u8]) -> bool {
    const FILES: &[&str] = &[
        "png", "jpg", "jpeg", "gif", "svg", "webp", "ico", "bmp", "tif", "tiff", "css", "js", "ts", "json",
        "html", "htm", "xml", "txt", "csv", "pdf", "doc", "docx", "xls", "xlsx", "log", "bak", "yml", "yaml",
        "toml", "gz", "tgz", "exe", "dll", "service", "socket", "timer", "mount", "target", "ttf", "woff",
        "woff2", "mp3", "mp4", "wav", "eml", "php", "rb", "go", "java", "class", "jar",
    ];
    FILES.iter().any(|file| last.eq_ignore_ascii_case(file.as_bytes()))
}

/// Tells which endings count.
pub(super) trait Endings {
    /// Whether `domain`, as it is written, has an ending of the root zone or one that the job trusts. Its characters are of
    /// the classes `seen`.
    fn are_known(&mut self, domain: &[u8], seen: u16) -> bool;

    /// Fetches ahead what is known of the domain of `usual`.
    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s>;

    /// What an address has in common with others whose ending counts and of which nothing else has to be asked.
    fn judge_at_once(&mut self, usual: &Usual<'_>) -> Option<Alike>;
}

impl Endings for &Policy {
    fn are_known(&mut self, domain: &[u8], _: u16) -> bool {
        has_known_ending(domain, self)
    }

    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s> {
        usual
    }

    fn judge_at_once(&mut self, _: &Usual<'_>) -> Option<Alike> {
        None
    }
}

impl Endings for Judge<'_> {
    #[inline]
    fn are_known(&mut self, domain: &[u8], seen: u16) -> bool {
        self.knows_ending(domain, seen).unwrap_or_else(|| has_known_ending(domain, self.policy()))
    }

    #[inline]
    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s> {
        self.fetch_domain(usual)
    }

    #[inline(always)]
    fn judge_at_once(&mut self, usual: &Usual<'_>) -> Option<Alike> {
        self.usual(usual)
    }
}

/// Whether the domain has an ending of the root zone or one that the job trusts.
pub(super) fn has_known_ending(domain: &[u8], policy: &Policy) -> bool {
    let known = |ascii: &[u8]| facts::name_of(Labels::of(ascii), policy).has_known_ending(ascii);
    if domain.is_ascii() {
        let mut lower = [0; 256];
        let Some(lower) = lower.get_mut(..domain.len()) else { return false };
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        known(lower)
    } else {
        // Left-over invisible and full-width characters are undone as in a cell.
        let plain = crate::decoded::decode(domain);
        let plain = plain.as_ref().map_or(domain, |decoded| &decoded.text);
        domain::ascii_of(plain).is_some_and(|ascii| known(ascii.as_bytes()))
    }
}

/// What stands beside the word and shows that it is no address.
pub(super) fn context(text: &[u8], start: usize, end: usize) -> Option<Passed> {
    let beside = start > 0 && matches!(text[start - 1], b':' | b'/');
    if beside && let Some(reason) = scheme_before(text, start) {
        return Some(reason);
    }
    if text.get(end) == Some(&b':') && is_remote_path(&text[end + 1..]) {
        return Some(Passed::Remote);
    }
    if start > 0 && text[start - 1] == b'<' && text.get(end) == Some(&b'>') && is_message_id(text, start - 1)
    {
        return Some(Passed::MessageId);
    }
    None
}

/// A web address or another scheme that what stands before `start` belongs to.
fn scheme_before(text: &[u8], start: usize) -> Option<Passed> {
    const OTHERS: [&[u8]; 9] = [b"sip", b"sips", b"xmpp", b"im", b"acct", b"ssh", b"cid", b"mid", b"tel"];
    let before = &text[start.saturating_sub(256)..start];
    let (mut from, mut scheme) = (before.len(), None);
    while from > 0 && !bytes::is(before[from - 1], BORDER) {
        from -= 1;
        if before[from] == b':' && scheme.is_none() && before[from..].starts_with(b"://") {
            scheme = Some(&before[from + 3..]);
        }
    }
    let token = &before[from..];
    if scheme.is_some_and(|behind| memchr::memchr3(b'/', b'?', b'#', behind).is_none()) {
        return Some(Passed::UserInfo);
    }
    let [name @ .., b':'] = token else { return None };
    let name = &name[name.iter().rposition(|b| !b.is_ascii_alphanumeric()).map_or(0, |at| at + 1)..];
    let is_other = name.len() <= 4 && OTHERS.iter().any(|other| name.eq_ignore_ascii_case(other));
    is_other.then_some(Passed::OtherUri)
}

/// `git@host:group/project.git`, but not `ada@host.org:text` or `ada@host.org://`.
fn is_remote_path(rest: &[u8]) -> bool {
    let rest = &rest[..rest.len().min(256)];
    let ends = |b: &u8| b.is_ascii_whitespace() || matches!(b, b'"' | b'\'' | b'<' | b'>' | b')' | b',');
    let end = rest.iter().position(|b| *b == b'/' || ends(b)).unwrap_or(rest.len());
    rest.get(end) == Some(&b'/') || rest[..end].ends_with(b".git")
}

/// Whether the header that the angle bracket at `open` stands in names messages: the line itself, or the one that it
/// continues.
fn is_message_id(text: &[u8], open: usize) -> bool {
    // `Resent-Message-ID` and others end with the first.
    const HEADERS: [&[u8]; 4] = [b"message-id:", b"in-reply-to:", b"references:", b"content-id:"];
    let mut line_end = open;
    for _ in 0..16 {
        let from = line_end.saturating_sub(512);
        let mut start = from;
        for place in memchr::memrchr2_iter(b'\n', b':', &text[from..line_end]) {
            if text[from + place] == b'\n' {
                start = from + place + 1;
                break;
            }
            let before = &text[from..=from + place];
            // With one of these letters all of them end.
            let may_be_one = place > 0 && matches!(text[from + place - 1] | 0x20, b'd' | b'o' | b's');
            if may_be_one && HEADERS.iter().any(|header| ends_ignoring_case(before, header)) {
                return true;
            }
        }
        let line = &text[start..line_end];
        let continues = line.first().is_some_and(|b| matches!(b, b' ' | b'\t'));
        if !continues || start == 0 {
            return false;
        }
        line_end = start - 1;
    }
    false
}

fn ends_ignoring_case(text: &[u8], end: &[u8]) -> bool {
    text.len() >= end.len() && text[text.len() - end.len()..].eq_ignore_ascii_case(end)
}
