//! The examples, run as a user of the library would.

#[path = "../examples/distinct_mailboxes.rs"]
#[allow(dead_code, reason = "it is run without its main")]
mod distinct_mailboxes;
#[path = "../examples/find_in_text.rs"]
#[allow(dead_code, reason = "it is run without its main")]
mod find_in_text;
#[path = "../examples/judge_lines.rs"]
#[allow(dead_code, reason = "it is run without its main")]
mod judge_lines;

/// What an example writes.
fn written(run: impl FnOnce(&mut Vec<u8>) -> std::io::Result<()>) -> String {
    let mut output = Vec::new();
    run(&mut output).unwrap();
    String::from_utf8(output).unwrap()
}

#[test]
fn examples_do_what_they_say() {
    let judged = written(|out| {
        judge_lines::run("ada@quarryfarm.org\nada@gmial.com\nada..lovell@quarryfarm.org\n".as_bytes(), out)
    });
    let lines: Vec<&str> = judged.lines().collect();
    assert_eq!(lines[0], "ada@quarryfarm.org\taccept");
    assert!(
        lines[1].starts_with("ada@gmial.com\treview\ttyping-slip: ")
            && lines[1].ends_with("perhaps ada@gmail.com")
    );
    assert!(lines[2].contains("\treject\tdouble-dot: "), "{}", lines[2]);
    let found = written(|out| {
        find_in_text::run("Write to <ada@quarryfarm.org>, or to bo (bo@quarryfarm.org).".as_bytes(), out)
    });
    assert_eq!(found, "ada@quarryfarm.org\nbo@quarryfarm.org\n");
    let counted = written(|out| {
        distinct_mailboxes::run(
            "Ada.Lovell@gmail.com\nadalovell+news@googlemail.com\nbo@quarryfarm.org\nnobody\n".as_bytes(),
            out,
        )
    });
    assert_eq!(counted, "2 mailboxes\n");
}
