"""Makes the benchmark files, streaming and by a seed, with what is true of them. Nothing beyond Python 3.9 is needed.

    make.py FOLDER [--scale 1.0] [--seed 1]

Scale 1 makes 3 million contacts, 10 million address lines, 1 GB of prose and 1 GB of log lines. truth.json tells what a job
has to find: how many addresses are in each file, and how many distinct ones under letter case.
"""
import argparse
import json
import os
import random

FREE = ["gmail.com", "yahoo.com", "outlook.com", "gmx.de", "icloud.com", "web.de", "proton.me", "orange.fr"]
SYLLABLES = "ba be bi bo da de do fa fe fi ga go ha he ka ke ko la le li lo ma me mi mo na ne no pa pe ra re ri ro sa se so ta te to va ve wa".split()
ENDINGS = ["com", "org", "net", "de", "fr", "co.uk", "nl", "it", "eu", "info"]
WORDS = "the dome was open and a faint band of light stood over the ridge until clouds came in from the west we packed the tripods".split()


class Maker:
    def __init__(self, seed, people):
        self.random = random.Random(seed)
        # Most people are at few domains; the rest are spread over very many.
        self.domains = [self.word(3) + "-" + self.word(2) + "." + self.random.choice(ENDINGS) for _ in range(max(40, people // 40))]
        self.people = people

    def word(self, syllables):
        return "".join(self.random.choice(SYLLABLES) for _ in range(syllables))

    def domain(self):
        return self.random.choice(FREE) if self.random.random() < 0.55 else self.random.choice(self.domains)

    def address(self, number):
        """The address of a person: always the same for the same number."""
        own = random.Random(number * 2654435761)
        first, last = (own.choice(SYLLABLES) + own.choice(SYLLABLES) for _ in range(2))
        domain = own.choice(FREE) if own.random() < 0.55 else own.choice(self.domains)
        return f"{first}.{last}{number}@{domain}"

    def written(self, address):
        """As somebody typed it."""
        draw = self.random.random()
        if draw < 0.72:
            return address, True
        if draw < 0.82:
            return address.title(), True
        if draw < 0.88:
            return f" {address} ", True
        if draw < 0.92:
            return f"<{address}>", True
        if draw < 0.94:
            return f"mailto:{address}", True
        if draw < 0.96:
            return address.replace(".", "..", 1), False
        if draw < 0.98:
            return address.replace("@", "", 1), False
        return "", False


def contacts(maker, path, count):
    usable, distinct = 0, set()
    with open(path, "w", newline="\n") as out:
        out.write("id,name,email,phone,city,notes,joined\n")
        for number in range(count):
            address = maker.address(maker.random.randrange(maker.people))
            cell, good = maker.written(address)
            if good:
                usable += 1
                distinct.add(hash(address.lower()))
            notes = " ".join(maker.random.choices(WORDS, k=6))
            name = maker.word(2).title() + " " + maker.word(3).title()
            out.write(f'{number + 1},{name},{cell},+99 555 {number % 10000:04},{maker.word(3).title()},"{notes}, {number % 7}",2026-01-{number % 28 + 1:02}\n')
    return {"records": count, "usable": usable, "distinct_by_case": len(distinct)}


def lines(maker, path, count):
    distinct = set()
    with open(path, "w", newline="\n") as out:
        for _ in range(count):
            address = maker.address(maker.random.randrange(maker.people))
            if maker.random.random() < 0.1:
                address = address.title()
            distinct.add(hash(address.lower()))
            out.write(address + "\n")
    return {"records": count, "distinct_by_case": len(distinct)}


def text(maker, path, bytes, apart, line):
    """Text with an address about every `apart` bytes, in lines of about `line` bytes."""
    written, addresses, next_one, in_line = 0, 0, apart, 0
    with open(path, "w", newline="\n") as out:
        while written < bytes:
            word = maker.random.choice(WORDS)
            if written >= next_one:
                word = maker.address(maker.random.randrange(maker.people))
                addresses += 1
                next_one = written + maker.random.randrange(apart // 2, apart * 3 // 2)
            in_line += len(word) + 1
            end = "\n" if in_line > line else " "
            in_line = 0 if end == "\n" else in_line
            out.write(word + end)
            written += len(word) + 1
    return {"bytes": written, "addresses": addresses}


def log(maker, path, bytes, apart):
    """Log lines, most of them one of few; an address about every `apart` bytes."""
    usual = [f"2026-11-23T{h:02}:{m:02}:07Z dome-{h} INFO shutter={m} wind=3.{h} " + " ".join(maker.random.choices(WORDS, k=9)) + "\n" for h in range(24) for m in range(0, 60, 3)]
    written, addresses, next_one = 0, 0, apart
    with open(path, "w", newline="\n") as out:
        while written < bytes:
            row = maker.random.choice(usual)
            if written >= next_one:
                row = row[:-1] + " from=" + maker.address(maker.random.randrange(maker.people)) + "\n"
                addresses += 1
                next_one = written + maker.random.randrange(apart // 2, apart * 3 // 2)
            out.write(row)
            written += len(row)
    return {"bytes": written, "addresses": addresses}


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    os.makedirs(given.folder, exist_ok=True)
    place = lambda name: os.path.join(given.folder, name)
    people = max(1000, int(6_000_000 * given.scale))
    truth = {"scale": given.scale, "seed": given.seed}
    for name, make in [
        ("contacts.csv", lambda maker, path: contacts(maker, path, int(3_000_000 * given.scale))),
        ("addresses.txt", lambda maker, path: lines(maker, path, int(10_000_000 * given.scale))),
        ("prose.txt", lambda maker, path: text(maker, path, int(1e9 * given.scale), 600, 90)),
        ("sparse.log", lambda maker, path: log(maker, path, int(1e9 * given.scale), 60_000)),
    ]:
        truth[name] = make(Maker(f"{given.seed} {name}", people), place(name))
    with open(place("truth.json"), "w") as out:
        json.dump(truth, out, indent=2)
    print(json.dumps(truth, indent=2))


if __name__ == "__main__":
    main()
