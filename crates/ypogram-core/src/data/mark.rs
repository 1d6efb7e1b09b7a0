/// A mark of sixteen bits that a domain or a word gives by its length and four of its bytes. Most that are on no list leave
/// at this mark, without a look-up.
#[inline]
pub(crate) fn mark_of(domain: &[u8]) -> usize {
    let (first, second, third) = match *domain {
        [first, second, third, ..] => (first, second, third),
        [first, second] => (first, second, 0),
        [first] => (first, 0, 0),
        [] => (0, 0, 0),
    };
    let middle = domain.get(domain.len() / 2).map_or(0, |&b| usize::from(b));
    let bytes = usize::from(first) * 2_053 + usize::from(second) * 509 + usize::from(third) * 7_919;
    (bytes + middle * 31 + domain.len() * 4_099) & 65_535
}
