//! Numbers into rows, without asking for memory.

/// Appends `number` in decimal.
pub(crate) fn write_number(mut number: u64, out: &mut Vec<u8>) {
    let mut digits = [0; 20];
    let mut at = digits.len();
    loop {
        at -= 1;
        digits[at] = b'0' + (number % 10) as u8;
        number /= 10;
        if number == 0 {
            break;
        }
    }
    out.extend_from_slice(&digits[at..]);
}
