//! Groups of nodes drawn as pictures of their own: nodes as shapes, edges as lines, each with a label that covers no other.

mod layout;

use serde::{Deserialize, Serialize};

use layout::Size;

/// A picture of one group.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Drawing {
    /// What it shows.
    pub(crate) caption: String,
    /// Pixels.
    pub(crate) width: u32,
    /// Pixels.
    pub(crate) height: u32,
    pub(crate) lines: Vec<[i32; 4]>,
    pub(crate) nodes: Vec<Placed>,
}

/// A node in its place.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Placed {
    /// Pixels from the left.
    pub(crate) x: i32,
    /// Pixels from the top.
    pub(crate) y: i32,
    pub(crate) shape: Shape,
    pub(crate) label: String,
    /// What is told where the pointer rests on it.
    pub(crate) title: String,
}

/// The shape of a node, which says what it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum Shape {
    Circle,
    Square,
    Diamond,
    Triangle,
}

/// A node before it has a place.
pub(crate) struct Unplaced {
    pub(crate) shape: Shape,
    pub(crate) label: String,
    pub(crate) title: String,
}

/// Pixels around a picture.
const MARGIN: f64 = 8.0;

/// Pixels that a shape takes to each side.
const RADIUS: f64 = 8.0;

/// Pixels of a letter of a label, on average, in a broad typeface.
const LETTER: f64 = 7.4;

impl Drawing {
    /// A picture of these nodes and of the lines between pairs of them.
    pub(crate) fn new(caption: String, nodes: Vec<Unplaced>, edges: &[(usize, usize)]) -> Self {
        let sizes: Vec<Size> = nodes
            .iter()
            .map(|node| Size {
                left: RADIUS,
                right: RADIUS + 4.0 + node.label.chars().count() as f64 * LETTER,
                above: RADIUS + 1.0,
                below: RADIUS + 1.0,
            })
            .collect();
        let mut places = layout::places(&sizes, edges);
        let least = |of: fn(&(f64, f64)) -> f64, side: fn(&Size) -> f64| {
            places.iter().zip(&sizes).map(|(place, size)| of(place) - side(size)).fold(f64::MAX, f64::min)
        };
        let (left, top) =
            (least(|place| place.0, |size| size.left), least(|place| place.1, |size| size.above));
        for place in &mut places {
            *place = (place.0 - left + MARGIN, place.1 - top + MARGIN);
        }
        let whole = |number: f64| number.round() as i32;
        let most = |ends: Vec<f64>| (ends.into_iter().fold(0.0, f64::max) + MARGIN).ceil() as u32;
        let both = || places.iter().zip(&sizes);
        Drawing {
            caption,
            width: most(both().map(|(place, size)| place.0 + size.right).collect()),
            height: most(both().map(|(place, size)| place.1 + size.below).collect()),
            lines: edges
                .iter()
                .map(|&(one, other)| {
                    let (one, other) = (places[one], places[other]);
                    [one.0, one.1, other.0, other.1].map(whole)
                })
                .collect(),
            nodes: nodes
                .into_iter()
                .zip(&places)
                .map(|(node, place)| Placed {
                    x: whole(place.0),
                    y: whole(place.1),
                    shape: node.shape,
                    label: node.label,
                    title: node.title,
                })
                .collect(),
        }
    }
}

impl Shape {
    /// Its outline around the origin, as the path of an SVG.
    pub(crate) fn outline(self) -> &'static str {
        match self {
            Shape::Circle => "M-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0z",
            Shape::Square => "M-6-6h12v12h-12z",
            Shape::Diamond => "M0-7.5L7.5 0L0 7.5L-7.5 0z",
            Shape::Triangle => "M0-7L7 6H-7z",
        }
    }

    /// Its name, by which it has its colour.
    pub(crate) fn name(self) -> &'static str {
        match self {
            Shape::Circle => "circle",
            Shape::Square => "square",
            Shape::Diamond => "diamond",
            Shape::Triangle => "triangle",
        }
    }
}
