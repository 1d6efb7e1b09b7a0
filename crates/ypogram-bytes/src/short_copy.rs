//! Short stretches of bytes, copied in one step of fixed width: a copy of just so many bytes has to find out how many there
//! are, which takes longer than the copy.

/// Appends the first `len` bytes of `from` to `out`. Where `from` has `STEP` bytes and no more are wanted, that is one step.
///
/// ```
/// let mut out = b"to ".to_vec();
/// ypogram_bytes::append_short::<8>(b"ada@fernhollow.example", 3, &mut out);
/// assert_eq!(out, b"to ada");
/// ```
///
/// # Panics
/// Where `from` has fewer than `len` bytes.
#[inline(always)]
pub fn append_short<const STEP: usize>(from: &[u8], len: usize, out: &mut Vec<u8>) {
    let end = out.len() + len;
    match from.first_chunk::<STEP>() {
        Some(step) if len <= STEP => {
            out.extend_from_slice(step);
            out.truncate(end);
        }
        _ => out.extend_from_slice(&from[..len]),
    }
}

/// Appends `few`, which is quick where it has four to sixteen bytes: in two steps, the second over some of the first.
///
/// ```
/// let mut out = b"to ".to_vec();
/// ypogram_bytes::append_few(b"ada@fern", &mut out);
/// assert_eq!(out, b"to ada@fern");
/// ```
#[inline(always)]
pub fn append_few(few: &[u8], out: &mut Vec<u8>) {
    match few.len() {
        8..=16 => append_both_ends::<8>(few, out),
        4..8 => append_both_ends::<4>(few, out),
        _ => out.extend_from_slice(few),
    }
}

/// Appends `few`, which has `STEP` bytes to twice as many.
#[inline(always)]
fn append_both_ends<const STEP: usize>(few: &[u8], out: &mut Vec<u8>) {
    let end = out.len() + few.len();
    out.extend_from_slice(&few[..STEP]);
    out.truncate(end - STEP);
    out.extend_from_slice(&few[few.len() - STEP..]);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn takes_as_many_as_asked_for() {
        let from: Vec<u8> = (0..40).collect();
        for from in [&from[..], &from[..16], &from[..9]] {
            for len in 0..=from.len() {
                let mut out = b"x".to_vec();
                append_short::<16>(from, len, &mut out);
                append_few(&from[..len], &mut out);
                assert_eq!(out[1..], [&from[..len], &from[..len]].concat());
            }
        }
    }
}
