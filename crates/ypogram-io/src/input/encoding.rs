//! Text that is not UTF-8: which encoding it is in, and its bytes decoded on the way.
//!
//! UTF-8 passes as it is, single invalid bytes and all. Whether a text is UTF-8 shows in its first block that is not ASCII; up to
//! there all encodings that are read say the same.

use std::fs::File;
use std::io::{self, Read, Seek as _};
use std::sync::{Arc, OnceLock};

use chardetng::{EncodingDetector, Iso2022JpDetection, Utf8Detection};
use encoding_rs::{Decoder, Encoding, GB18030, GBK, UTF_8, UTF_16BE, UTF_16LE};

/// What is known of the encoding of a source.
#[derive(Clone, Debug)]
pub(crate) struct Guess {
    /// None for UTF-8.
    pub(crate) encoding: Option<&'static Encoding>,
    /// The line that decided, from 1, and the start of it, decoded.
    pub(crate) line: u64,
    pub(crate) text: String,
}

/// What was guessed, as soon as that is.
pub(crate) type Guessed = Arc<OnceLock<Guess>>;

/// Bytes from the first that is not ASCII on, by which is guessed.
const SAMPLE: usize = 64 << 10;

/// Characters that are shown of the line that decided.
const SHOWN: usize = 40;

impl Guess {
    /// What the summary says about it, where there is something to say.
    pub(crate) fn remark(&self) -> Option<String> {
        let encoding = self.encoding?;
        let Guess { line, text, .. } = self;
        let name = encoding.name();
        Some(format!("read as {name}, by line {line}: ‘{text}’; --encoding chooses another"))
    }

    /// Of text whose lines above are so many, by its bytes from the first that is not ASCII on.
    fn of(sample: &[u8], from: usize, lines_above: u64) -> Self {
        let encoding = encoding_of(&sample[from..]);
        let line_start = memchr::memrchr(b'\n', &sample[..from]).map_or(0, |at| at + 1);
        let line_end = memchr::memchr(b'\n', &sample[from..]).map_or(sample.len(), |at| from + at);
        let (text, _) = encoding.unwrap_or(UTF_8).decode_without_bom_handling(&sample[line_start..line_end]);
        let text: String = text.trim_end().chars().filter(|c| !c.is_control()).take(SHOWN).collect();
        let line = lines_above + memchr::memchr_iter(b'\n', &sample[..from]).count() as u64 + 1;
        Guess { encoding, line, text }
    }

    /// Of text that starts with `start`; none where that is ASCII, so that it shows only later.
    pub(crate) fn of_start(start: &[u8]) -> Option<Self> {
        let from = first_not_ascii(start)?;
        let end = start.len().min(from + SAMPLE);
        Some(Guess::of(&start[..end], from, 0))
    }

    /// Of a whole file, read up to where it shows.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub(crate) fn of_file(file: &mut File) -> io::Result<Option<Self>> {
        let (mut block, mut above) = (vec![0; BLOCK], 0);
        loop {
            let read = file.read(&mut block)?;
            if read == 0 {
                return Ok(None);
            }
            let Some(from) = first_not_ascii(&block[..read]) else {
                above += read as u64;
                continue;
            };
            let mut sample = block[..read].to_vec();
            file.take((from + SAMPLE).saturating_sub(read) as u64).read_to_end(&mut sample)?;
            sample.truncate(from + SAMPLE);
            // Lines are counted only now: most files are ASCII to their end, or show at once that they are not.
            file.rewind()?;
            let (mut rest, mut lines) = (file.take(above), 0);
            loop {
                match rest.read(&mut block)? {
                    0 => return Ok(Some(Guess::of(&sample, from, lines))),
                    read => lines += memchr::memchr_iter(b'\n', &block[..read]).count() as u64,
                }
            }
        }
    }
}

/// Bytes that are read at once, so that they stay in the cache of a core.
const BLOCK: usize = 256 << 10;

fn first_not_ascii(bytes: &[u8]) -> Option<usize> {
    let ascii = bytes.chunks(4096).take_while(|chunk| chunk.is_ascii()).count() * 4096;
    bytes.get(ascii..)?.iter().position(|byte| !byte.is_ascii()).map(|at| ascii + at)
}

/// The encoding of bytes of which the first is not ASCII; none for UTF-8, also with invalid bytes in between.
fn encoding_of(sample: &[u8]) -> Option<&'static Encoding> {
    let (mut valid, mut invalid) = (0_usize, 0_usize);
    for chunk in sample.utf8_chunks() {
        valid += chunk.valid().bytes().filter(|byte| !byte.is_ascii()).count();
        invalid += chunk.invalid().len();
    }
    // Characters of UTF-8 hardly ever come about by chance in texts of Europe; in those of East Asia, less than half of the bytes
    // look like that.
    if valid > invalid || valid + invalid == 0 {
        return None;
    }
    let mut detector = EncodingDetector::new(Iso2022JpDetection::Deny);
    detector.feed(sample, true);
    let encoding = detector.guess(None, Utf8Detection::Deny);
    let encoding = if encoding == GBK { GB18030 } else { encoding };
    // Controls are no text in any encoding, so these are just bytes.
    let (text, _) = encoding.decode_without_bom_handling(sample);
    let nonsense = text.chars().filter(|c| ('\u{80}'..'\u{A0}').contains(c) || *c == '\u{FFFD}').count();
    (nonsense * 4 <= valid + invalid).then_some(encoding)
}

/// The encoding that a name means, by the Encoding standard.
///
/// ```
/// assert_eq!(ypogram_io::encoding_named("latin1").map(|encoding| encoding.name()), Some("windows-1252"));
/// assert!(ypogram_io::encoding_named("klingon").is_none());
/// ```
pub fn encoding_named(name: &str) -> Option<&'static Encoding> {
    Encoding::for_label(name.trim().as_bytes()).filter(|encoding| *encoding != encoding_rs::REPLACEMENT)
}

/// Whether text without a mark is in UTF-16, and whether with the most significant byte first: letters of most languages of Europe have a
/// zero in the same half of each pair.
pub(crate) fn utf16_without_mark(start: &[u8]) -> Option<&'static Encoding> {
    let pairs = start.as_chunks::<2>().0;
    let zeros = |half: usize| pairs.iter().filter(|pair| pair[half] == 0).count();
    let (high_first, low_first) = (zeros(0), zeros(1));
    let is_clear = |zeros: usize, others: usize| zeros * 10 >= pairs.len() * 4 && others == 0 && zeros > 1;
    if is_clear(low_first, high_first) {
        Some(UTF_16LE)
    } else if is_clear(high_first, low_first) {
        Some(UTF_16BE)
    } else {
        None
    }
}

/// Bytes in `encoding` that a text has.
///
/// ```
/// let latin = ypogram_io::encoding_named("latin1").unwrap();
/// assert_eq!(ypogram_io::bytes_in(latin, "Jürgen".as_bytes()), 6);
/// ```
pub fn bytes_in(encoding: &'static Encoding, text: &[u8]) -> u64 {
    if encoding == UTF_16LE || encoding == UTF_16BE {
        let units = |&b: &u8| u64::from(b & 0xC0 != 0x80) + u64::from(b >= 0xF0);
        return text.iter().map(units).sum::<u64>() * 2;
    }
    if encoding.is_single_byte() {
        return text.iter().filter(|&&byte| byte & 0xC0 != 0x80).count() as u64;
    }
    let text = String::from_utf8_lossy(text);
    let chars = |c: char| match c {
        c if c.is_ascii() => 1,
        '\u{FFFD}' => 1,
        c => encoding.encode(c.encode_utf8(&mut [0; 4])).0.len() as u64,
    };
    text.chars().map(chars).sum()
}

/// Text on its way to UTF-8.
pub(crate) struct Decoding<R> {
    from: R,
    state: State,
    guessed: Guessed,
    /// Bytes that are to come out before others are read, and how many of them did.
    waiting: Vec<u8>,
    given: usize,
    /// Lines of what was ASCII.
    lines: u64,
    raw: Vec<u8>,
}

enum State {
    /// All so far was ASCII.
    Ascii,
    Utf8,
    Other(Box<Decoder>),
    /// The decoder is at its end.
    End,
}

impl<R: Read> Decoding<R> {
    /// Of text in that encoding.
    pub(crate) fn known(from: R, encoding: &'static Encoding) -> Self {
        let state = State::Other(Box::new(encoding.new_decoder_with_bom_removal()));
        Decoding { state, ..Decoding::guessing(from, 0, Guessed::default()) }
    }

    /// Of text that was ASCII so far, for so many lines.
    pub(crate) fn guessing(from: R, lines: u64, guessed: Guessed) -> Self {
        let (state, waiting, raw) = (State::Ascii, Vec::new(), Vec::new());
        Decoding { from, state, guessed, waiting, given: 0, lines, raw }
    }

    /// Guesses by `block`, and what follows it.
    fn guess(&mut self, block: &[u8], from: usize) -> io::Result<()> {
        let mut sample = block.to_vec();
        let missing = (from + SAMPLE).saturating_sub(sample.len());
        (&mut self.from).take(missing as u64).read_to_end(&mut sample)?;
        let guess = Guess::of(&sample, from, self.lines);
        (self.given, self.waiting) = (0, Vec::new());
        match guess.encoding {
            None => (self.state, self.waiting) = (State::Utf8, sample),
            Some(encoding) => {
                let mut decoder = Box::new(encoding.new_decoder_without_bom_handling());
                decode(&mut decoder, &sample, false, &mut self.waiting);
                self.state = State::Other(decoder);
            }
        }
        let _ = self.guessed.set(guess);
        Ok(())
    }

    fn give(&mut self, buffer: &mut [u8]) -> usize {
        let rest = &self.waiting[self.given..];
        let len = rest.len().min(buffer.len());
        buffer[..len].copy_from_slice(&rest[..len]);
        self.given += len;
        len
    }
}

/// Appends what `raw` is in UTF-8; what is no character is U+FFFD.
fn decode(decoder: &mut Decoder, raw: &[u8], last: bool, out: &mut Vec<u8>) {
    let room = decoder.max_utf8_buffer_length(raw.len()).unwrap_or(raw.len() * 3 + 16);
    let start = out.len();
    out.resize(start + room, 0);
    let (_, _, written, _) = decoder.decode_to_utf8(raw, &mut out[start..], last);
    out.truncate(start + written);
}

impl<R: Read> Read for Decoding<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        loop {
            if self.given < self.waiting.len() {
                return Ok(self.give(buffer));
            }
            match &mut self.state {
                State::End => return Ok(0),
                State::Utf8 => return self.from.read(buffer),
                State::Ascii => {
                    let read = self.from.read(buffer)?;
                    let Some(from) = first_not_ascii(&buffer[..read]) else {
                        self.lines += memchr::memchr_iter(b'\n', &buffer[..read]).count() as u64;
                        return Ok(read);
                    };
                    self.guess(&buffer[..read], from)?;
                }
                State::Other(decoder) => {
                    self.raw.resize(SAMPLE, 0);
                    let read = self.from.read(&mut self.raw)?;
                    (self.given, self.waiting) = (0, std::mem::take(&mut self.waiting));
                    self.waiting.clear();
                    decode(decoder, &self.raw[..read], read == 0, &mut self.waiting);
                    if read == 0 {
                        self.state = State::End;
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(bytes: &[u8]) -> (Vec<u8>, Option<String>) {
        let guessed = Guessed::default();
        let mut out = Vec::new();
        Decoding::guessing(bytes, 0, Arc::clone(&guessed)).read_to_end(&mut out).unwrap();
        let name = guessed.get().and_then(|guess| guess.encoding).map(|encoding| encoding.name().to_owned());
        (out, name)
    }

    #[test]
    fn encodings_are_recognised_and_decoded() {
        // The encoding, and a text that people of it may have.
        for (label, text) in [
            ("windows-1252", "name;mail\nJürgen Müßig;jm@gmx.de\nZoë Brontë;zoe@web.de\n"),
            ("windows-1250", "jméno;e-mail\nŽofie Černá;z@seznam.cz\nJiří Dvořák;j@seznam.cz\n"),
            ("windows-1251", "имя;почта\nАнна Петрова;a@mail.ru\nБорис Ильин;b@mail.ru\n"),
            ("Shift_JIS", "名前,メール\n山田太郎,taro@example.jp\n鈴木花子,hanako@example.jp\n"),
            ("EUC-JP", "名前,メール\n山田太郎,taro@example.jp\n鈴木花子,hanako@example.jp\n"),
            ("gb18030", "姓名,邮箱\n王小明,wang@example.cn\n李静,li@example.cn\n"),
            ("Big5", "姓名,信箱\n陳大文,chan@example.tw\n林美麗,lin@example.tw\n"),
            ("EUC-KR", "이름,메일\n김민수,kim@example.kr\n박지영,park@example.kr\n"),
        ] {
            let encoding = encoding_named(label).unwrap();
            let (bytes, ..) = encoding.encode(text);
            // Far behind what is ASCII, and at the start.
            for ascii in [0, 200_000] {
                let bytes = [&vec![b'x'; ascii][..], b"\n", &bytes].concat();
                let expected = format!("{}\n{text}", "x".repeat(ascii));
                let (out, name) = read(&bytes);
                assert_eq!(name.as_deref(), Some(encoding.name()));
                assert!(out == expected.as_bytes(), "{label}: {}", String::from_utf8_lossy(&out));
                assert_eq!(bytes_in(encoding, expected.as_bytes()), bytes.len() as u64, "{label}");
            }
        }
    }

    #[test]
    fn utf8_passes_as_it_is() {
        for bytes in [
            &b""[..],
            b"plain\n",
            "Jürgen Müßig\n".as_bytes(),
            // A byte that is none, among others.
            b"J\xC3\xBCrgen \xFF\n",
        ] {
            assert_eq!(read(bytes), (bytes.to_vec(), None), "{}", String::from_utf8_lossy(bytes));
        }
        assert_eq!(utf16_without_mark(b"n\0a\0m\0e\0"), Some(UTF_16LE));
        assert_eq!(utf16_without_mark(b"\0n\0a\0m\0e"), Some(UTF_16BE));
        assert_eq!(utf16_without_mark(b"name\0\0\0\0"), None);
    }

    #[test]
    fn the_line_that_decided_is_named() {
        let guess = Guess::of_start(b"name\nAnna\nJ\xFCrgen\nB\xF6ll\n").unwrap();
        assert_eq!((guess.line, &*guess.text), (3, "Jürgen"));
        assert!(guess.remark().unwrap().starts_with("read as windows-1252, by line 3: ‘Jürgen’"));
    }
}
