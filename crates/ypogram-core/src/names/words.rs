//! The words of a name, compared regardless of their order, letter case or accents.

use std::sync::LazyLock;

use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use crate::characters::hash::Hasher;
use ypogram_bytes::BLOCK;
use ypogram_bytes::low_bits;
use ypogram_bytes::{Kernel, Simd, simd};

/// A hash of the words of the name that is the first `len` bytes of `from`, in whatever order they stand; 0 where there are none.
/// Letter case, accents, signs and titles do not count. What stands behind the name has no meaning, and lets it be read in steps
/// of fixed width.
///
/// ```
/// use ypogram_core::{Hasher, names::hash_of_words};
/// let hash = |name: &str| hash_of_words(name.as_bytes(), name.len(), Hasher::with_key(1));
/// assert_eq!(hash("Dr. Zoë Harrow"), hash("HARROW, Zoe"));
/// assert_ne!(hash("Zoë Harrow"), hash("Bea Harrow"));
/// assert_eq!(hash(" - "), 0);
/// ```
#[inline]
pub fn hash_of_words(from: &[u8], len: usize, hasher: Hasher) -> u64 {
    of_ascii(from, len, hasher).unwrap_or_else(|| of_any(&from[..len], hasher))
}

/// The same for a short name of ASCII only with enough behind it; none for others.
#[inline]
fn of_ascii(from: &[u8], len: usize, hasher: Hasher) -> Option<u64> {
    let block = from.first_chunk().filter(|_| len < BLOCK)?;
    let [in_words, outside_ascii] = word_bits(block, len);
    if outside_ascii != 0 {
        return None;
    }
    let (mut left, mut sum) = (in_words, 0_u64);
    while left != 0 {
        let start = left.trailing_zeros();
        let len = (left >> start).trailing_ones();
        left &= !(low_bits(len) << start);
        let step = from[start as usize..].first_chunk()?;
        let kept = KEPT.get(len as usize)?;
        // Letters and digits are in lower case with that bit.
        let word = (u128::from_le_bytes(*step) | SMALL) & kept;
        sum = sum.wrapping_add(of_short(word, hasher));
    }
    Some(sum)
}

/// Which of the first `len` bytes of a block, at most [`BLOCK`], are letters or digits, and which are not in ASCII.
#[inline]
pub(crate) fn word_bits(block: &[u8; BLOCK], len: usize) -> [u64; 2] {
    // Most are short, and to ask for wider registers would take longer than they save.
    let marks = match len < SHORT {
        true => marks_in(simd::Sixteen, block, SHORT),
        false => simd::run(Marking(block)),
    };
    let kept = if len < BLOCK { low_bits(len as u32) } else { u64::MAX };
    marks.map(|byte| byte & kept)
}

/// Bytes in which most names fit.
const SHORT: usize = 32;

/// Bytes in which most words fit.
const STEP: usize = size_of::<u128>();

/// The bit of small letters in each byte.
const SMALL: u128 = u128::from_ne_bytes([b' '; STEP]);

/// The lowest so many bytes.
static KEPT: [u128; STEP + 1] = {
    let (mut kept, mut len) = ([0; STEP + 1], 1);
    while len <= STEP {
        kept[len] = kept[len - 1] << 8 | 0xFF;
        len += 1;
    }
    kept
};

/// A hash of a word, the first byte in the lowest bits; 0 for a title.
#[inline]
fn of_short(word: u128, hasher: Hasher) -> u64 {
    // All are compared, since a processor cannot foresee which it will be.
    let is_title =
        TITLES.iter().fold(false, |is_one, title| is_one | (*title == word as u32)) & (word >> 32 == 0);
    let hash = hasher.hash_short(&word.to_le_bytes()) | 1;
    if is_title { 0 } else { hash }
}

const TITLES: [u32; 10] = [
    title("mr"),
    title("mrs"),
    title("ms"),
    title("miss"),
    title("dr"),
    title("prof"),
    title("herr"),
    title("frau"),
    title("mme"),
    title("sir"),
];

const fn title(word: &str) -> u32 {
    let (mut bytes, mut nth) = ([0; size_of::<u32>()], 0);
    while nth < word.len() {
        bytes[nth] = word.as_bytes()[nth];
        nth += 1;
    }
    u32::from_le_bytes(bytes)
}

/// Tells which bytes are letters or digits, and which are not in ASCII.
struct Marking<'b>(&'b [u8; BLOCK]);

impl Kernel for Marking<'_> {
    type Output = [u64; 2];

    #[inline(always)]
    fn run(self, simd: impl Simd) -> [u64; 2] {
        marks_in(simd, self.0, BLOCK)
    }
}

/// For the first so many bytes.
#[inline(always)]
fn marks_in<L: Simd>(simd: L, block: &[u8; BLOCK], len: usize) -> [u64; 2] {
    let (mut in_words, mut outside_ascii) = (0, 0);
    for nth in 0..len / L::WIDTH {
        let bytes = simd.load(block, nth);
        let letter = simd.or(simd.within(bytes, b'a', b'z'), simd.within(bytes, b'A', b'Z'));
        let letter_or_digit = simd.or(letter, simd.within(bytes, b'0', b'9'));
        in_words |= simd.bits(letter_or_digit) << (L::WIDTH * nth);
        outside_ascii |= simd.bits(simd.within(bytes, 0x80, 0xFF)) << (L::WIDTH * nth);
    }
    [in_words, outside_ascii]
}

/// The hash of any name.
#[inline(never)]
fn of_any(name: &[u8], hasher: Hasher) -> u64 {
    let mut sum = 0_u64;
    each_word(name, |word| {
        let mut step = [0; STEP];
        let hash = match step.get_mut(..word.len()) {
            Some(short) => {
                short.copy_from_slice(word);
                of_short(u128::from_le_bytes(step), hasher)
            }
            None => hasher.hash_short(word) | 1,
        };
        sum = sum.wrapping_add(hash);
    });
    sum
}

/// Calls `see` with each word: lower case, without accents and signs.
fn each_word(name: &[u8], mut see: impl FnMut(&[u8])) {
    let see = |word: &[u8]| {
        if !word.is_empty() {
            see(word)
        }
    };
    let mut plain = [0; LONGEST_PLAIN];
    if let Some(len) = without_accents(name, &mut plain) {
        return plain[..len].split(|&b| b == 0).for_each(see);
    }
    let text: String = String::from_utf8_lossy(name)
        .nfkd()
        .filter(|c| !is_combining_mark(*c))
        .collect::<String>()
        .to_lowercase();
    text.split(|c: char| !c.is_alphanumeric()).map(str::as_bytes).for_each(see);
}

/// The words of `name` in their order: lower case, without accents, signs and titles.
///
/// ```
/// assert_eq!(ypogram_core::names::words("Dr. Zoë O'Neil-Harrow"), ["zoe", "o", "neil", "harrow"]);
/// ```
pub fn words(name: &str) -> Vec<String> {
    let mut words = Vec::new();
    each_word(name.as_bytes(), |word| {
        let mut first = [0; size_of::<u32>()];
        if let Some(first) = first.get_mut(..word.len()) {
            first.copy_from_slice(word);
        }
        if word.len() > first.len() || !TITLES.contains(&u32::from_le_bytes(first)) {
            words.push(String::from_utf8_lossy(word).into_owned());
        }
    });
    words
}

/// Longer names are not looked at the short way.
const LONGEST_PLAIN: usize = 96;

/// Writes `name` to `out` in lower case and without accents, a zero for what is no part of a word, where it has ASCII and Latin
/// letters only; gives how many bytes that are.
fn without_accents(name: &[u8], out: &mut [u8; LONGEST_PLAIN]) -> Option<usize> {
    if name.len() > LONGEST_PLAIN {
        return None;
    }
    let (mut read, mut written) = (0, 0);
    while let Some(&b) = name.get(read) {
        if b < 0x80 {
            out[written] = if b.is_ascii_alphanumeric() { b.to_ascii_lowercase() } else { 0 };
            (read, written) = (read + 1, written + 1);
            continue;
        }
        let row = LATIN.get(usize::from(b).checked_sub(0xC3)?)?;
        let [first, second] =
            *row.get(usize::from(name.get(read + 1)? ^ 0x80)).filter(|letter| letter[0] != 0)?;
        out[written] = first;
        written += 1;
        if second != 0 {
            out[written] = second;
            written += 1;
        }
        read += 2;
    }
    Some(written)
}

/// The Latin letters from U+00C0 on that are two bytes in UTF-8, by the first byte less 0xC3 and the second less 0x80: in lower
/// case and without accents, in one byte or two. Zeros stand for one that takes more, or is no part of a word.
static LATIN: LazyLock<[[[u8; 2]; 64]; 7]> = LazyLock::new(|| {
    let plain = |c: char| {
        let letters: String = c.nfkd().filter(|c| !is_combining_mark(*c)).collect::<String>().to_lowercase();
        match *letters.as_bytes() {
            _ if !letters.chars().all(char::is_alphanumeric) => [0, 0],
            [one] => [one, 0],
            [one, other] => [one, other],
            _ => [0, 0],
        }
    };
    std::array::from_fn(|row| {
        let first = (row as u32 + 3) << 6;
        std::array::from_fn(|nth| char::from_u32(first + nth as u32).map_or([0, 0], plain))
    })
});

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn hash(name: &str) -> u64 {
        hash_of_words(name.as_bytes(), name.len(), Hasher::with_key(5))
    }

    #[test]
    fn one_person_however_written() {
        for (one, other, same) in [
            ("Ada Lovell", "LOVELL, Ada", true),
            ("Dr. Zoë Harrow", "Zoe Harrow", true),
            ("Miss Drew Prof-Sirius", "drew prof  Sirius", true),
            ("Ada Lovell", "Bea Lovell", false),
            ("Ada Lovell", "Ada Ada Lovell", false),
            ("", " - ", true),
            ("ZOË  Łukasz-Ærø", "zoe łukasz ærø", true),
            ("Zoe\u{308} Weiß", "ZOË weiß", true),
        ] {
            assert_eq!(hash(one) == hash(other), same, "{one} / {other}");
        }
        // The short way says what the long one, which the alpha asks for, says of each letter.
        for c in ('\0'..'\u{300}').filter(|c| *c < '\u{80}' || *c >= 'À') {
            let long = hash(&format!("x{c}y \u{3B1}"));
            assert_eq!(hash(&format!("x{c}y")).wrapping_add(hash("\u{3B1}")), long, "{c:?}");
        }
    }

    proptest! {
        #[test]
        fn what_stands_behind_has_no_meaning(name in "([a-cZ]{1,19}[ .'-]|mr |Dr|9|é){0,6}", behind in "[a-zé]{0,80}") {
            let (hasher, text) = (Hasher::with_key(5), [&*name, &behind].concat());
            let alone = of_any(name.as_bytes(), hasher);
            prop_assert_eq!(hash_of_words(text.as_bytes(), name.len(), hasher), alone);
            let mut block = [b'x'; BLOCK];
            let len = name.len().min(BLOCK);
            block[..len].copy_from_slice(&name.as_bytes()[..len]);
            prop_assert_eq!(simd::run(Marking(&block)), marks_in(simd::Sixteen, &block, BLOCK));
        }
    }
}
