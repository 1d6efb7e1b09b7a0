//! *address* of RFC 5322 §3.4 as it stands in message headers, with the obsolete forms of §4.4.
//!
//! Comments, folding white space, names, groups, routes and obsolete words are recognised and named; the address in them
//! is then held against the same rules as any other.

use crate::characters::bytes::{self, ATEXT, HIGH};
use crate::judge::domain;
use crate::judge::examination::Examination;
use crate::judge::standard_form;
use crate::model::codes::Code;
use crate::model::finding::Finding;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;
use crate::syntax::local_part::{self, LocalContent};

/// Examines `text` as an address of a message header.
pub(crate) fn examine(text: &[u8], policy: &Policy, out: &mut Examination) {
    let mut parser = Parser { text, at: 0, findings: Vec::new() };
    let found = parser.address();
    parser.skip_between();
    if parser.at < text.len() && found.is_some() {
        parser.tell_leftover();
    }
    out.findings = parser.findings;
    let Some(found) = found else {
        if !out.findings.iter().any(|f| f.code.info().kind == crate::model::severity::Kind::Syntax) {
            out.findings.push(Finding::plain(Code::NoAtSign, 0..text.len()));
        }
        return;
    };
    judge_parts(text, &found, policy, out);
}

/// The words of a local part and the pieces of a domain, comments and white space left out.
#[derive(Debug)]
struct Spec {
    words: Vec<Word>,
    domain: Vec<Span>,
    at_sign: usize,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Word {
    Atom(Span),
    Quoted(Span),
    Dot(usize),
}

impl Word {
    fn span(self) -> Span {
        match self {
            Word::Atom(span) | Word::Quoted(span) => span,
            Word::Dot(at) => Span::new(at, at + 1),
        }
    }
}

fn judge_parts(text: &[u8], spec: &Spec, policy: &Policy, out: &mut Examination) {
    let span_of = |pieces: &[Span], empty: usize| match (pieces.first(), pieces.last()) {
        (Some(first), Some(last)) => Span::new(first.start, last.end),
        _ => Span::new(empty, empty),
    };
    let word_spans: Vec<Span> = spec.words.iter().map(|word| word.span()).collect();
    out.local_span = span_of(&word_spans, spec.at_sign);
    out.domain_span = span_of(&spec.domain, spec.at_sign + 1);
    let local = local_part_of(text, spec, out);

    // The domain is judged without what stands between its pieces; findings are moved back to their places.
    let compact: Vec<u8> = spec.domain.iter().flat_map(|span| span.of(text)).copied().collect();
    let places: Vec<usize> = spec.domain.iter().flat_map(|span| span.start..span.end).collect();
    let mut findings = Vec::new();
    out.domain = domain::examine(&compact, 0, policy, &mut findings);
    let place = |at: usize| places.get(at).copied().unwrap_or(spec.at_sign + 1);
    for mut finding in findings {
        let (start, end) = (finding.span.start, finding.span.end);
        finding.span = Span::new(place(start), if end > start { place(end - 1) + 1 } else { place(start) });
        out.findings.push(finding);
    }
    if places.windows(2).any(|pair| pair[0] + 1 != pair[1]) {
        out.findings.push(Finding::plain(Code::ObsoleteForm, out.domain_span));
    }
    standard_form::put_together(local, policy, out);
}

fn local_part_of(text: &[u8], spec: &Spec, out: &mut Examination) -> LocalContent {
    if let [Word::Quoted(span)] = spec.words[..] {
        return local_part::read(span.of(text), span.start, &mut out.findings);
    }
    let is_obsolete = spec.words.iter().any(|word| matches!(word, Word::Quoted(_)))
        || spec.words.windows(2).any(|pair| pair[0].span().end != pair[1].span().start);
    if !is_obsolete {
        return local_part::read(out.local_span.of(text), out.local_span.start, &mut out.findings);
    }
    out.findings.push(Finding::plain(Code::ObsoleteForm, out.local_span));
    let mut content = Vec::new();
    let mut last_was_dot = true;
    for word in &spec.words {
        let is_dot = matches!(word, Word::Dot(_));
        if is_dot == last_was_dot {
            let code = if is_dot { Code::DoubleDot } else { Code::SpaceInside };
            let code = if is_dot && content.is_empty() { Code::DotAtEdge } else { code };
            out.findings.push(Finding::plain(code, word.span()));
        }
        last_was_dot = is_dot;
        match word {
            Word::Dot(_) => content.push(b'.'),
            Word::Atom(span) | Word::Quoted(span) => {
                content.extend(local_part::read(span.of(text), span.start, &mut out.findings).text);
            }
        }
    }
    if last_was_dot {
        out.findings.push(Finding::plain(
            Code::DotAtEdge,
            spec.words.last().map_or(out.local_span, |word| word.span()),
        ));
    }
    LocalContent { text: content, quoted: true }
}

struct Parser<'t> {
    text: &'t [u8],
    at: usize,
    findings: Vec<Finding>,
}

impl Parser<'_> {
    fn peek(&self) -> Option<u8> {
        self.text.get(self.at).copied()
    }

    /// `address = mailbox / group`. Gives the address, for a group that of its first member.
    fn address(&mut self) -> Option<Spec> {
        let start = self.first_after_between();
        let words = self.words();
        match self.peek() {
            Some(b'@') => self.after_local(words),
            Some(b'<') => {
                if !words.is_empty() {
                    let name = Span::new(start, words.last().map_or(start, |word| word.span().end));
                    self.findings.push(Finding::plain(Code::DisplayName, name));
                }
                self.angle()
            }
            Some(b':') if !words.is_empty() => self.group(start),
            _ => {
                self.tell_leftover();
                None
            }
        }
    }

    /// `group = display-name ":" [group-list] ";"`.
    fn group(&mut self, start: usize) -> Option<Spec> {
        self.at += 1;
        let mut first = None;
        loop {
            self.skip_between();
            match self.peek() {
                None => {
                    self.findings.push(Finding::told(
                        Code::Group,
                        start..self.at,
                        "The group is not closed by a semicolon.",
                    ));
                    return first;
                }
                Some(b';') => {
                    self.at += 1;
                    self.findings.push(Finding::plain(Code::Group, start..self.at));
                    return first;
                }
                Some(b',') => self.at += 1,
                Some(_) => {
                    let before = self.at;
                    let told = self.findings.len();
                    let member = self.address();
                    if first.is_none() && member.is_some() {
                        first = member;
                    } else {
                        self.findings.truncate(told);
                    }
                    self.skip_to_separator(before);
                }
            }
        }
    }

    /// Leaves a member of a group behind, whatever is wrong with it.
    fn skip_to_separator(&mut self, before: usize) {
        while self.peek().is_some_and(|b| !matches!(b, b',' | b';')) || self.at == before {
            self.at += 1;
        }
    }

    /// `angle-addr = [CFWS] "<" addr-spec ">" [CFWS]`, or with a route (§4.4 *obs-angle-addr*).
    fn angle(&mut self) -> Option<Spec> {
        let open = self.at;
        self.at += 1;
        self.skip_between();
        if matches!(self.peek(), Some(b'@' | b','))
            && let Some(colon) = memchr::memchr(b':', &self.text[self.at..])
        {
            let end = self.at + colon + 1;
            self.findings.push(Finding::plain(Code::SourceRoute, self.at..end));
            self.at = end;
        }
        self.skip_between();
        let words = self.words();
        if self.peek() != Some(b'@') {
            self.tell_leftover();
            return None;
        }
        let spec = self.after_local(words);
        self.skip_between();
        if self.peek() == Some(b'>') {
            self.at += 1;
        } else {
            self.findings.push(Finding::told(
                Code::CharacterNotAllowed,
                open..open + 1,
                "The angle bracket is never closed.",
            ));
        }
        spec
    }

    /// `addr-spec` from its @ on.
    fn after_local(&mut self, words: Vec<Word>) -> Option<Spec> {
        let at_sign = self.at;
        self.at += 1;
        self.skip_between();
        let mut domain = Vec::new();
        if self.peek() == Some(b'[') {
            let start = self.at;
            let close = memchr::memchr(b']', &self.text[start..]).map_or(self.text.len(), |i| start + i + 1);
            self.at = close;
            domain.push(Span::new(start, close));
            return Some(Spec { words, domain, at_sign });
        }
        loop {
            let start = self.at;
            while self.peek().is_some_and(|b| bytes::is(b, ATEXT | HIGH) || b == b'.') {
                self.at += 1;
            }
            if self.at == start {
                break;
            }
            domain.push(Span::new(start, self.at));
            let end = self.at;
            self.skip_between();
            // Only a dot carries a domain on across white space (§4.4 *obs-domain*).
            let dot_before = self.text[end - 1] == b'.';
            if !dot_before && self.peek() != Some(b'.') {
                break;
            }
        }
        if self.peek() == Some(b'@') {
            self.findings.push(Finding::plain(Code::SeveralAtSigns, self.at..self.at + 1));
        }
        Some(Spec { words, domain, at_sign })
    }

    /// Atoms, quoted strings and dots, with what may stand between them.
    fn words(&mut self) -> Vec<Word> {
        let mut words = Vec::new();
        loop {
            self.skip_between();
            let start = self.at;
            match self.peek() {
                Some(b'.') => {
                    self.at += 1;
                    words.push(Word::Dot(start));
                }
                Some(b'"') => match local_part::closing_quote(&self.text[start..]) {
                    Some(close) => {
                        self.at = start + close + 1;
                        words.push(Word::Quoted(Span::new(start, self.at)));
                    }
                    None => return words,
                },
                Some(b) if bytes::is(b, ATEXT | HIGH) => {
                    while self.peek().is_some_and(|b| bytes::is(b, ATEXT | HIGH)) {
                        self.at += 1;
                    }
                    words.push(Word::Atom(Span::new(start, self.at)));
                }
                _ => return words,
            }
        }
    }

    fn first_after_between(&mut self) -> usize {
        self.skip_between();
        self.at
    }

    /// Skips and names comments, which may be nested to any depth, and folding white space (§3.2.2).
    fn skip_between(&mut self) {
        loop {
            let start = self.at;
            while self.peek().is_some_and(|b| matches!(b, b' ' | b'\t' | b'\r' | b'\n')) {
                self.at += 1;
            }
            if self.at > start {
                self.findings.push(Finding::plain(Code::FoldingSpace, start..self.at));
            }
            if self.peek() != Some(b'(') {
                return;
            }
            self.comment();
        }
    }

    fn comment(&mut self) {
        let start = self.at;
        let mut depth = 0_usize;
        while let Some(b) = self.peek() {
            self.at += 1;
            match b {
                b'\\' => self.at = (self.at + 1).min(self.text.len()),
                b'(' => depth += 1,
                b')' => depth -= 1,
                _ => {}
            }
            if depth == 0 {
                self.findings.push(Finding::plain(Code::CommentInside, start..self.at));
                return;
            }
        }
        self.findings.push(Finding::told(
            Code::UnbalancedQuote,
            start..start + 1,
            "The comment is never closed.",
        ));
    }

    /// Names what stands where nothing of an address can.
    fn tell_leftover(&mut self) {
        let (start, text) = (self.at, self.text);
        let Some((c, width)) = bytes::first_char(&text[start.min(text.len())..]) else {
            let code = if start < text.len() { Code::NotUtf8 } else { Code::NoAtSign };
            self.findings.push(Finding::plain(code, start.min(text.len().saturating_sub(1))..text.len()));
            return;
        };
        let code = match c {
            '"' => Code::UnbalancedQuote,
            '@' => Code::SeveralAtSigns,
            c if c.is_control() => Code::ControlCharacter,
            _ => Code::CharacterNotAllowed,
        };
        if code == Code::CharacterNotAllowed {
            let message = format!("Here {} cannot stand.", bytes::shown(c));
            self.findings.push(Finding::told(code, start..start + width, message));
        } else {
            self.findings.push(Finding::plain(code, start..start + width));
        }
    }
}
