//! `ypogram bounces`: what comes back after a mailing, in every shape in which it comes.

use std::collections::BTreeMap;

use serde_json::Value;

use crate::{Place, table};

/// A report of delivery with these fields of recipients.
fn report(fields: &str) -> String {
    format!(
        "From: MAILER-DAEMON@mx.fernhollow.example\nTo: news@fernhollow.example\nSubject: Undelivered Mail\n\
         Auto-Submitted: auto-replied\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n\
         --b\nContent-Type: text/plain\n\nIt failed for nobody@else.example.\n\n--b\n\
         Content-Type: message/delivery-status\n\nReporting-MTA: dns; mx.fernhollow.example\n\n{fields}\n\n--b\n\
         Content-Type: message/rfc822\n\nTo: nobody@else.example\nSubject: unsubscribe\n\nOpen night\n--b--\n"
    )
}

/// What a mail system says in plain words.
fn plain(headers: &str, body: &str) -> String {
    format!(
        "From: MAILER-DAEMON@mx.example\nTo: news@fernhollow.example\nSubject: failure notice\n{headers}\n{body}\n"
    )
}

/// A mail of a person, or of a program in a person's place.
fn mail(from: &str, subject: &str, headers: &str, body: &str) -> String {
    format!("From: {from}\nTo: news@fernhollow.example\nSubject: {subject}\n{headers}\n{body}\n")
}

/// What a message says of its recipients: the address, what it is, the new address, the code. Where it names none, whether it is unread.
type Said = Result<Vec<[&'static str; 4]>, bool>;

fn cases() -> Vec<(String, Said)> {
    const AUTO: &str = "Auto-Submitted: auto-replied (vacation)\n";
    vec![
        (
            report(
                "Original-Recipient: rfc822;Zeno.Inglewood@QuarryFarm.example\nFinal-Recipient: rfc822; zeno@in.example\n\
                 Action: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 5.1.1\n <zeno@in.example>: User unknown",
            ),
            Ok(vec![["zeno.inglewood@quarryfarm.example", "gone", "", "5.1.1"]]),
        ),
        (
            report(
                "Final-Recipient: rfc822; ada@hill.example\nAction: failed\nStatus: 5.2.2 (full)\n\n\
                 Final-Recipient: rfc822; ben@hill.example\nAction: failed\nStatus: 5.7.1\nDiagnostic-Code: smtp; 550 spam\n\n\
                 Final-Recipient: rfc822; cy@hill.example\nAction: delivered\nStatus: 2.0.0\n\n\
                 Final-Recipient: rfc822; dora@hill.example\nAction: delayed\nStatus: 4.4.1",
            ),
            Ok(vec![
                ["ada@hill.example", "full", "", "5.2.2"],
                ["ben@hill.example", "deferred", "", "5.7.1"],
                ["dora@hill.example", "deferred", "", "4.4.1"],
            ]),
        ),
        (
            report(
                "Final-Recipient: utf-8; j\\x{F6}rg@hill.example\nAction: failed\nStatus: 5.0.0\n\
                 Diagnostic-Code: smtp; 551 5.1.6 moved, please try <j.quill@pond.example>",
            ),
            Ok(vec![["jörg@hill.example", "moved", "j.quill@pond.example", "5.1.6"]]),
        ),
        (report("Final-Recipient: rfc822; edda@hill.example\nAction: delivered\nStatus: 2.1.5"), Err(false)),
        (report("Final-Recipient: x-local; somebody\nAction: failed\nStatus: 5.0.0"), Err(true)),
        (
            plain(
                "X-Failed-Recipients: gil@marsh.example,\n  hal@marsh.example\n",
                "  gil@marsh.example\n    host mx [192.0.2.1]: 550 5.1.1 <gil@marsh.example>: user unknown\n  hal@marsh.example\n    \
                 452 4.2.2 mailbox full\n\n------ This is a copy of the message ------\nTo: other@marsh.example",
            ),
            Ok(vec![["gil@marsh.example", "gone", "", "5.1.1"], ["hal@marsh.example", "full", "", "4.2.2"]]),
        ),
        (
            plain(
                "",
                "I wasn't able to deliver to:\n\n<ivy@old.example>:\nSorry, no mailbox here by that name. (#5.1.1)\n\n\
                 --- Below this line is a copy of the message.\n\nMessage-ID: <abc@old.example>\n550 nobody@old.example",
            ),
            Ok(vec![["ivy@old.example", "gone", "", "5.1.1"]]),
        ),
        (plain("", "<jo@old.example>: something happened"), Err(true)),
        (plain("", "It failed."), Err(true)),
        (
            mail("Kim <kim@pond.example>", "Out of office", AUTO, "In urgent matters write to lou@pond.example."),
            Ok(vec![["kim@pond.example", "away", "", ""]]),
        ),
        (
            mail("lou@pond.example", "Re: Open night", AUTO, "Please use my\nnew address:\nlou@brook.example"),
            Ok(vec![["lou@pond.example", "moved", "lou@brook.example", ""]]),
        ),
        (
            mail("mo@pond.example", "Abwesend", AUTO, "Mo ist nicht mehr bei uns. Bitte an info@pond.example."),
            Ok(vec![["mo@pond.example", "gone", "", ""]]),
        ),
        (mail("help@pond.example", "[#4711] Open night", AUTO, "We have received your ticket."), Err(false)),
        (
            mail("=?utf-8?q?N=C3=A4d=C3=A8?= <nade@pond.example>", "=?utf-8?q?d=C3=A9sabonner?=", "", "svp"),
            Ok(vec![["nade@pond.example", "withdrawn", "", ""]]),
        ),
        (
            mail("oda@pond.example", "Re: Open night", "", "Please take me off your list!\n\n> Open night"),
            Ok(vec![["oda@pond.example", "withdrawn", "", ""]]),
        ),
        (mail("pia@pond.example", "Re: Open night", "", "See you.\n\nNews wrote:\nto unsubscribe, answer"), Err(false)),
        (
            "From: kim@pond.example\nTo: news@fernhollow.example\nSubject: Read: Open night\nAuto-Submitted: auto-replied\n\
             Content-Type: multipart/report; report-type=disposition-notification; boundary=b\n\n--b\n\
             Content-Type: message/disposition-notification\n\nFinal-Recipient: rfc822;kim@pond.example\n\n--b--\n"
                .to_owned(),
            Err(false),
        ),
        (mail("rae@pond.example", "Re: Open night", "", "Please do not unsubscribe me."), Err(false)),
        (
            "From: loop@web.example\nTo: abuse@fernhollow.example\nSubject: complaint\n\
             Content-Type: multipart/report; report-type=feedback-report; boundary=b\n\n--b\n\
             Content-Type: message/feedback-report\n\nFeedback-Type: abuse\nOriginal-Rcpt-To: <sol@web.example>\n\n--b--\n"
                .to_owned(),
            Ok(vec![["sol@web.example", "withdrawn", "", ""]]),
        ),
    ]
}

/// The first four cells of each row.
fn rows(place: &Place, file: &str) -> Vec<Vec<String>> {
    const CELLS: [&str; 4] = ["recipient", "what", "new_address", "code"];
    let cells = |row: BTreeMap<String, String>| CELLS.map(|cell| row[cell].clone()).to_vec();
    table(&place.read(file)).into_iter().map(cells).collect()
}

#[test]
fn each_message_says_what_came_of_it_alone_and_in_a_mailbox() {
    let place = Place::with(&[]);
    let (mut mailbox, mut all, mut unread) = (String::new(), Vec::new(), 0);
    std::fs::create_dir(place.path("mails")).unwrap();
    for (at, (message, expected)) in cases().into_iter().enumerate() {
        std::fs::write(place.path("one.eml"), message.replace('\n', "\r\n")).unwrap();
        std::fs::write(place.path(&format!("mails/{at:02}.eml")), &message).unwrap();
        mailbox.push_str(&format!("From MAILER-DAEMON Mon Nov 30 10:00:00 2026\n{message}\n"));
        let run = place.run("bounces one.eml -o one.csv --force --json");
        let rows = rows(&place, "one.csv");
        assert_eq!(run.code, i32::from(expected == Err(true)), "{message}{}", run.stdout);
        let expected = expected.unwrap_or_else(|is_unread| {
            unread += u64::from(is_unread);
            Vec::new()
        });
        assert_eq!(rows, expected, "{message}");
        all.extend(rows);
    }
    std::fs::write(place.path("all.mbox"), format!("\u{feff}\n\n{mailbox}")).unwrap();
    for source in ["all.mbox", "mails"] {
        let run = place.run(&format!("bounces {source} -o all.csv --force --json"));
        let said: Value = serde_json::from_str(&run.stdout).unwrap();
        let told = rows(&place, "all.csv");
        assert_eq!(told, all, "{source}");
        let count = |name: &str| said["counts"][name].as_u64().unwrap();
        assert_eq!(count("with_recipients") + count("other") + count("unread"), count("messages"));
        assert_eq!((count("messages"), count("unread")), (cases().len() as u64, unread));
        let what = said["counts"]["what"].as_object().unwrap().values().map(|count| count.as_u64().unwrap());
        assert_eq!(what.sum::<u64>(), all.len() as u64);
    }
}

/// Of several messages about one recipient what counts most stands, and the demo's figures are those of its rows.
#[test]
fn a_recipient_has_one_row() {
    let wish = mail("Ada <ADA@hill.example>", "unsubscribe", "", "");
    let full = report("Final-Recipient: rfc822; ada@hill.example\nAction: failed\nStatus: 5.2.2");
    for messages in [[&wish, &full], [&full, &wish]] {
        let mailbox: String = messages.iter().map(|message| format!("From x\n{message}\n")).collect();
        let place = Place::with(&[("all.mbox", mailbox.as_bytes())]);
        let run = place.run("bounces all.mbox -o - -q");
        assert!(run.stdout.lines().count() == 2 && run.stdout.contains(",withdrawn,"), "{}", run.stdout);
    }
    let place = Place::with_demo();
    let run = place.run("bounces returned.mbox --only gone,withdrawn -o leave-out.csv");
    insta::assert_snapshot!("bounces_demo", run.stdout);
    assert_eq!(run.code, 1);
    let told = |what: &str| place.run(&format!("bounces returned.mbox --figure {what}")).stdout;
    let rows = rows(&place, "leave-out.csv");
    for what in ["gone", "withdrawn"] {
        assert_eq!(told(what).trim(), rows.iter().filter(|row| row[1] == what).count().to_string());
    }
    // Those who are gone or withdrew are rejected, in whatever spelling they stand.
    let call =
        "clean members.csv --list bounced=leave-out.csv,of=keys,severity=reject --figure rejected.bounced";
    let rejected = place.run(call);
    assert_eq!(rejected.stdout.trim(), "3", "{}", rejected.stderr);
}

#[test]
fn what_is_no_mail_is_named() {
    let place = Place::with(&[("list.csv", b"email\nada@h-works.org\n".as_slice()), ("empty.mbox", b"")]);
    let run = place.run("bounces list.csv");
    assert!(
        run.code == 1 && run.stdout.contains("list.csv#1") && run.stdout.contains("no mail message"),
        "{}",
        run.stdout
    );
    let run = place.run("bounces missing.mbox");
    assert!(run.code == 2 && run.stderr.contains("missing.mbox"), "{}", run.stderr);
    let run = place.run("bounces list.csv -o list.csv --force");
    assert_eq!((run.code, place.read("list.csv")), (2, "email\nada@h-works.org\n".to_owned()));
    assert_eq!(place.run("bounces empty.mbox --figure messages").stdout, "0\n");
    // A message that is larger than any stands for itself; those around it are read.
    let wish = mail("ada@hill.example", "unsubscribe", "", "");
    let huge = "x\n".repeat(33 << 20);
    let mailbox = format!(
        "From x\n{wish}\nFrom x\nFrom: a@b.example\n\n{huge}\nFrom x\n{}",
        wish.replace("ada", "bea")
    );
    std::fs::write(place.path("huge.mbox"), mailbox).unwrap();
    let run = place.run("bounces huge.mbox");
    assert!(
        run.code == 1
            && run.stdout.contains("0 gone · 2 withdrawn")
            && run.stdout.contains("huge.mbox#2  it is larger than 64 MiB"),
        "{}",
        run.stdout
    );
}
