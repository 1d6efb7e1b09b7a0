//! Where the nodes of a picture go: edges pull like springs, nodes push one another away (Fruchterman and Reingold, 1991), and in the end
//! what still overlaps is pushed apart. There is no chance in it: the same graph gives the same picture.

/// Pixels that a node takes from its place, with its label.
#[derive(Clone, Copy, Debug)]
pub(super) struct Size {
    pub(super) left: f64,
    pub(super) right: f64,
    pub(super) above: f64,
    pub(super) below: f64,
}

/// Pixels that an edge has where nothing pulls or pushes.
const LENGTH: f64 = 62.0;

/// Nodes that are further apart do not push one another, so that a large picture stays together.
const REACH: f64 = 3.0 * LENGTH;

/// What pulls every node to the middle, as a share of how far it is from there.
const MIDDLE: f64 = 0.15;

/// Steps of pulling and pushing.
const STEPS: usize = 400;

/// Rounds in which overlapping labels are pushed apart, at most.
const ROUNDS: usize = 4000;

/// A label is wide and low: what pulls to the side pulls so much less.
const WIDE: f64 = 1.5;

/// Pixels that a picture is broad where its labels leave it the choice.
const BROADEST: f64 = 640.0;

/// What a picture that would be broader is stretched upright, at most.
const MOST_HIGH: f64 = 1.5;

/// The place of each node.
pub(super) fn places(sizes: &[Size], edges: &[(usize, usize)]) -> Vec<(f64, f64)> {
    let mut places = spiral(sizes.len());
    for step in 0..STEPS {
        let moves = moves(&places, edges);
        // Ever shorter steps: the picture comes to rest.
        let most = LENGTH * (1.0 - step as f64 / STEPS as f64);
        for (place, (x, y)) in places.iter_mut().zip(moves) {
            let far = x.hypot(y).max(f64::EPSILON);
            let share = far.min(most) / far;
            *place = (place.0 + x * share, place.1 + y * share);
        }
    }
    let left = places.iter().map(|place| place.0).fold(f64::MAX, f64::min);
    let right = places.iter().zip(sizes).map(|(place, size)| place.0 + size.right / WIDE);
    let width = (right.fold(f64::MIN, f64::max) - left).max(1.0);
    let wide = (BROADEST / width).min(WIDE);
    for place in &mut places {
        *place = (place.0 * wide, place.1 * (WIDE / wide).min(MOST_HIGH));
    }
    push_apart(&mut places, sizes);
    places
}

/// Places to begin with: the first node in the middle, no two at one place.
fn spiral(nodes: usize) -> Vec<(f64, f64)> {
    const GOLDEN: f64 = 2.399_963_229_728_653;
    let place = |nth: usize| {
        let (angle, far) = (nth as f64 * GOLDEN, (nth as f64).sqrt() * LENGTH * 0.7);
        (angle.cos() * far, angle.sin() * far)
    };
    (0..nodes).map(place).collect()
}

fn moves(places: &[(f64, f64)], edges: &[(usize, usize)]) -> Vec<(f64, f64)> {
    let mut moves = vec![(0.0, 0.0); places.len()];
    let mut pull = |one: usize, other: usize, strength: fn(f64) -> f64| {
        let (x, y) = (places[other].0 - places[one].0, places[other].1 - places[one].1);
        let far = x.hypot(y).max(1.0);
        let share = strength(far) / far;
        moves[one] = (moves[one].0 + x * share, moves[one].1 + y * share);
        moves[other] = (moves[other].0 - x * share, moves[other].1 - y * share);
    };
    for one in 0..places.len() {
        for other in one + 1..places.len() {
            pull(one, other, |far| if far > REACH { 0.0 } else { -LENGTH * LENGTH / far });
        }
    }
    for &(one, other) in edges {
        pull(one, other, |far| far * far / LENGTH);
    }
    for (place, way) in places.iter().zip(&mut moves) {
        *way = (way.0 - place.0 * MIDDLE, way.1 - place.1 * MIDDLE);
    }
    moves
}

fn push_apart(places: &mut [(f64, f64)], sizes: &[Size]) {
    for _ in 0..ROUNDS {
        let mut are_apart = true;
        for one in 0..places.len() {
            for other in one + 1..places.len() {
                let Some((x, y)) = overlap((places[one], sizes[one]), (places[other], sizes[other])) else {
                    continue;
                };
                are_apart = false;
                places[one] = (places[one].0 - x / 2.0, places[one].1 - y / 2.0);
                places[other] = (places[other].0 + x / 2.0, places[other].1 + y / 2.0);
            }
        }
        if are_apart {
            return;
        }
    }
}

/// How far, and to which side, the second has to go so that both are apart; none where they are.
fn overlap((one, a): ((f64, f64), Size), (other, b): ((f64, f64), Size)) -> Option<(f64, f64)> {
    // A little more than needed, so that rounding brings nothing back together.
    const GAP: f64 = 1.5;
    let right = one.0 + a.right - (other.0 - b.left) + GAP;
    let left = other.0 + b.right - (one.0 - a.left) + GAP;
    let down = one.1 + a.below - (other.1 - b.above) + GAP;
    let up = other.1 + b.below - (one.1 - a.above) + GAP;
    if right.min(left).min(down).min(up) <= GAP / 2.0 {
        return None;
    }
    let sideways = if right < left { right } else { -left };
    let upright = if down < up { down } else { -up };
    // There is more room above and below.
    Some(if sideways.abs() * 2.0 < upright.abs() { (sideways, 0.0) } else { (0.0, upright) })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A star, a chain, a cycle and all in one: no label covers another, and the same graph gives the same places.
    #[test]
    fn nothing_covers_anything() {
        let star: Vec<(usize, usize)> = (1..199).map(|leaf| (0, leaf)).collect();
        let chain: Vec<(usize, usize)> = (1..60).map(|nth| (nth - 1, nth)).collect();
        let two: Vec<(usize, usize)> = (2..60).flat_map(|leaf| [(0, leaf), (1, leaf)]).collect();
        for edges in [star, chain, two, vec![(0, 1)], Vec::new()] {
            let nodes = edges.iter().map(|(_, other)| other + 1).max().unwrap_or(1);
            let size = |nth: usize| Size {
                left: 8.0,
                right: 20.0 + (nth % 5) as f64 * 30.0,
                above: 9.0,
                below: 9.0,
            };
            let sizes: Vec<Size> = (0..nodes).map(size).collect();
            let places = places(&sizes, &edges);
            assert!(places.iter().all(|place| place.0.is_finite() && place.1.is_finite()));
            for one in 0..nodes {
                for other in one + 1..nodes {
                    let overlap = overlap((places[one], sizes[one]), (places[other], sizes[other]));
                    assert_eq!(overlap, None, "{one} and {other} of {nodes}");
                }
            }
            assert_eq!(super::places(&sizes, &edges), places);
        }
    }
}
