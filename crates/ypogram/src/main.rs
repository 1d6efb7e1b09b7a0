//! The program `ypogram`; what it does is in the library of the same name.
#![forbid(unsafe_code)]

fn main() -> std::process::ExitCode {
    ypogram::run()
}
