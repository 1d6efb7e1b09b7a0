//! Complete judging (parse, findings, class, key) on one core, and how often it asks for memory.
//!
//! `cargo bench -p ypogram-core` prints addresses a second; the count of allocations is printed first.

use std::alloc::{GlobalAlloc, Layout, System};
use std::hint::black_box;
use std::sync::atomic::{AtomicU64, Ordering};

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use ypogram_core::{Hasher, Judge, Policy, SameMailbox, cell};

struct Counting;

static ASKED: AtomicU64 = AtomicU64::new(0);

// SAFETY: every call is handed on to the system's allocator unchanged.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        ASKED.fetch_add(1, Ordering::Relaxed);
        unsafe { System.alloc(layout) }
    }

    unsafe fn dealloc(&self, pointer: *mut u8, layout: Layout) {
        unsafe { System.dealloc(pointer, layout) }
    }
}

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// Made-up addresses over `domains` business domains and the usual providers, each domain in turn.
fn addresses(count: usize, domains: usize) -> Vec<String> {
    const FIRST: [&str; 8] = ["ada", "bea", "cleo", "dara", "edda", "finn", "gwen", "hugo"];
    const LAST: [&str; 8] =
        ["lovell", "quist", "harrow", "thornbury", "ostrander", "pellworm", "trelawney", "yarrow"];
    const FREE: [&str; 4] = ["gmail.com", "outlook.com", "yahoo.com", "gmx.de"];
    (0..count)
        .map(|i| {
            let local = format!("{}.{}{}", FIRST[i % 8], LAST[i / 8 % 8], i % 97);
            let spread = i.wrapping_mul(2_654_435_761) % domains;
            match i % 2 {
                0 if domains < count => format!("{local}@{}", FREE[i / 2 % 4]),
                _ => format!("{local}@{}{spread}-works.co.uk", LAST[spread % 8]),
            }
        })
        .collect()
}

fn judge_all(judge: &mut Judge<'_>, addresses: &[String], key: &mut Vec<u8>) {
    for address in addresses {
        black_box(judge.judge(address.as_bytes()));
        key.clear();
        judge.key(SameMailbox::Provider, key);
        black_box(&key);
    }
}

fn judging(criterion: &mut Criterion) {
    let policy = Policy::default();
    let repeated = addresses(250_000, 2_000);
    let distinct = addresses(250_000, 250_000);
    let mut key = Vec::with_capacity(300);

    let mut judge = Judge::new(&policy, Hasher::with_key(1));
    judge_all(&mut judge, &repeated, &mut key);
    let before = ASKED.load(Ordering::Relaxed);
    judge_all(&mut judge, &repeated, &mut key);
    let asked = ASKED.load(Ordering::Relaxed) - before;
    println!("{} addresses at domains met before: {asked} allocations", repeated.len());
    let before = ASKED.load(Ordering::Relaxed);
    judge_all(&mut Judge::new(&policy, Hasher::with_key(1)), &distinct, &mut key);
    let asked = ASKED.load(Ordering::Relaxed) - before;
    println!(
        "{} addresses at as many new domains: {asked} allocations, all by the growing table",
        distinct.len()
    );

    let mut group = criterion.benchmark_group("judge");
    group.throughput(Throughput::Elements(repeated.len() as u64)).sample_size(20);
    group.bench_function("domains repeat", |b| b.iter(|| judge_all(&mut judge, &repeated, &mut key)));
    group.bench_function("every domain is new", |b| {
        b.iter_batched_ref(
            || Judge::new(&policy, Hasher::with_key(1)),
            |judge| judge_all(judge, &distinct, &mut key),
            BatchSize::PerIteration,
        );
    });
    group.bench_function("cells with wrappings", |b| {
        let cells: Vec<String> = repeated.iter().map(|address| format!("Ada Lovell <{address}>")).collect();
        b.iter(|| {
            let mut found = Vec::new();
            for cell in &cells {
                cell::read(cell.as_bytes(), &policy, &mut found);
                black_box(judge.judge(&found[0].text));
                found.clear();
            }
        });
    });
    group.finish();
}

criterion_group!(benches, judging);
criterion_main!(benches);
