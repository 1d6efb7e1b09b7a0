//! A domain and where its labels end, looked at once for all that is asked of them.

use ypogram_bytes::BLOCK;
use ypogram_bytes::ByteMasks;

/// A domain (lower-case A-labels, but where it says otherwise), and where its dots are.
#[derive(Clone, Copy)]
pub(crate) struct Labels<'d> {
    pub(crate) domain: &'d [u8],
    /// Those of the first bytes, the first in the lowest bit.
    first_dots: u64,
    plain: bool,
}

impl<'d> Labels<'d> {
    pub(crate) fn of(domain: &'d [u8]) -> Self {
        let bytes = domain.len().min(BLOCK);
        let mut block = [[b'a'; BLOCK]];
        block[0][..bytes].copy_from_slice(&domain[..bytes]);
        let mut masks = [ByteMasks::default()];
        ByteMasks::lowering(&mut block, &mut masks);
        let [masks] = masks;
        // A dot beside a dot or a hyphen, or two hyphens; at either end stands what a dot would be.
        let signs = masks.dot | masks.sign;
        let is_short = (1..BLOCK).contains(&domain.len());
        let ends = if is_short { 1 | 1 << (domain.len() - 1) } else { 0 };
        let odd = signs & (signs << 1 | ends) | masks.not_domain;
        Labels { domain, first_dots: masks.dot, plain: is_short && odd == 0 }
    }

    /// Whether it is short, of letters of either case, digits, hyphens and dots in an order that cannot be at fault, as nearly all
    /// are.
    pub(crate) fn is_plain(self) -> bool {
        self.plain
    }

    /// Where its dots are, from left to right.
    pub(crate) fn dots(self) -> impl Iterator<Item = usize> {
        let mut left = self.first_dots;
        let first = std::iter::from_fn(move || {
            let dot = (left != 0).then(|| left.trailing_zeros() as usize)?;
            left &= left - 1;
            Some(dot)
        });
        first.chain(memchr::memchr_iter(b'.', self.rest()).map(|dot| BLOCK + dot))
    }

    pub(crate) fn last_dot(self) -> Option<usize> {
        let in_rest = memchr::memrchr(b'.', self.rest()).map(|dot| BLOCK + dot);
        in_rest.or_else(|| self.first_dots.checked_ilog2().map(|dot| dot as usize))
    }

    /// What is behind the first bytes.
    fn rest(self) -> &'d [u8] {
        self.domain.get(BLOCK..).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn labels_are_what_byte_by_byte_they_are(domain in "[a-cA-C0-9._+' é-]{0,12}[.-]?[a-z0-9.-]{0,60}") {
            let domain = domain.as_bytes();
            let labels = Labels::of(domain);
            let with_dots = [b".", domain, b"."].concat();
            let odd = with_dots.windows(2).any(|pair| pair.iter().all(|b| matches!(b, b'.' | b'-')));
            let all_may = domain.iter().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-'));
            prop_assert_eq!(labels.is_plain(), all_may && !odd && domain.len() < BLOCK);
            let dots: Vec<usize> = (0..domain.len()).filter(|&at| domain[at] == b'.').collect();
            prop_assert_eq!(labels.last_dot(), dots.last().copied());
            prop_assert_eq!(labels.dots().collect::<Vec<_>>(), dots);
        }
    }
}
