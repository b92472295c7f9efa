//! All groups' graphs on one: their points with their lines, and one line through all points.

use super::{Axis, Graph};
use crate::fit::{Data, Fit, Model, Weighting, fit};
use crate::quantity::Unit;

/// A point in the units of the common axes, with its standard uncertainties.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PooledPoint {
    /// x.
    pub x: f64,
    /// y.
    pub y: f64,
    /// Standard uncertainty of x.
    pub ux: f64,
    /// Standard uncertainty of y.
    pub uy: f64,
}

/// One group's graph among the others.
#[derive(Clone, Debug)]
pub struct PooledSeries {
    /// Its place among the graphs that were given, from 0.
    pub group: usize,
    /// Its points, those set aside left out.
    pub points: Vec<PooledPoint>,
    /// Its curve, fitted anew in the common units with every point counting the same.
    pub line: Option<Fit>,
}

/// Graphs that show the same.
#[derive(Clone, Debug)]
pub struct PooledGraph {
    /// What goes across.
    pub x: Axis,
    /// What goes up.
    pub y: Axis,
    /// The groups' points and lines.
    pub series: Vec<PooledSeries>,
    /// One straight line through all points, where most groups have a straight one: ordinary least squares.
    pub all: Option<Fit>,
    /// Graphs of something else, which are left out.
    pub apart: usize,
}

/// Puts graphs on common axes. Most of them show the same dimensions across and up; the others are left out, and so are graphs without
/// points. `None` when nothing is left.
pub fn pooled(graphs: &[Option<&Graph>]) -> Option<PooledGraph> {
    let shown: Vec<(usize, &Graph)> = graphs
        .iter()
        .enumerate()
        .filter_map(|(group, g)| Some((group, (*g)?)))
        .filter(|(_, g)| g.points().any(|p| !p.aside && p.x.is_finite() && p.y.is_finite()))
        .collect();
    let alike = |a: &Graph, b: &Graph| a.x.unit.same_dimension(&b.x.unit) && a.y.unit.same_dimension(&b.y.unit);
    let count = |g: &Graph| shown.iter().filter(|(_, other)| alike(g, other)).count();
    // Of several that are as frequent the first one counts.
    let (_, common) = shown.iter().rev().max_by_key(|(_, g)| count(g))?;
    let those: Vec<(usize, &Graph)> = shown.iter().copied().filter(|(_, g)| alike(g, common)).collect();
    let (across, up) = (&common.x.unit, &common.y.unit);
    let series: Vec<PooledSeries> = those.iter().map(|(group, g)| series_of(*group, g, (across, up))).collect();
    let all_points: Vec<PooledPoint> = series.iter().flat_map(|s| s.points.iter().copied()).collect();
    let straight = those.iter().filter(|(_, g)| g.first_fit().is_some_and(|f| f.model.is_straight())).count();
    let all = (2 * straight > those.len()).then(|| fitted(&all_points, &Model::Line, (across, up))).flatten();
    let axis = |a: &Axis, values: &dyn Fn(&PooledPoint) -> f64| {
        Axis::around(&a.name, &a.symbol, a.unit.clone(), all_points.iter().map(values))
    };
    Some(PooledGraph {
        x: axis(&common.x, &|p| p.x),
        y: axis(&common.y, &|p| p.y),
        all,
        apart: shown.len() - those.len(),
        series,
    })
}

fn series_of(group: usize, graph: &Graph, (across, up): (&Unit, &Unit)) -> PooledSeries {
    let (kx, ky) = (graph.x.unit.size() / across.size(), graph.y.unit.size() / up.size());
    let sound = graph.points().filter(|p| !p.aside && p.x.is_finite() && p.y.is_finite());
    let points = sound.map(|p| PooledPoint { x: p.x * kx, y: p.y * ky, ux: p.ux * kx, uy: p.uy * ky });
    let points: Vec<PooledPoint> = points.collect();
    // A formula somebody typed may hold numbers of its units.
    let model = graph.first_fit().map(|f| &f.model).filter(|m| !matches!(m, Model::Typed(_)));
    let line = model.and_then(|model| fitted(&points, model, (across, up)));
    PooledSeries { group, points, line }
}

fn fitted(points: &[PooledPoint], model: &Model, (across, up): (&Unit, &Unit)) -> Option<Fit> {
    let data = Data::of(&points.iter().map(|p| (p.x, p.y)).collect::<Vec<_>>());
    fit(&data, model, Weighting::Equal, (std::slice::from_ref(across), up)).ok()
}

#[cfg(test)]
mod tests {
    use rand::{RngExt, SeedableRng};

    use super::*;
    use crate::graph::{Fitted, Point, PointKind, Series};

    fn graph((x, y): (&str, &str), points: &[(f64, f64)], model: Model) -> Graph {
        let (x, y) = (Unit::parse(x).unwrap(), Unit::parse(y).unwrap());
        let data = Data::of(points);
        let outcome = fit(&data, &model, Weighting::Equal, (std::slice::from_ref(&x), &y));
        let point = |(x, y): &(f64, f64)| Point {
            row: 1,
            number: 1,
            x: *x,
            y: *y,
            ux: 0.1,
            uy: 0.2,
            own: (0.1, 0.2),
            worked_from: Vec::new(),
            shared: Vec::new(),
            x_text: String::new(),
            y_text: String::new(),
            aside: false,
            odd: None,
        };
        Graph {
            id: 1,
            title: String::new(),
            x: Axis::around("length", "L", x, points.iter().map(|p| p.0)),
            y: Axis::around("time", "T", y, points.iter().map(|p| p.1)),
            series: vec![Series {
                label: String::new(),
                symbol: "T".into(),
                columns: (1, 2),
                kind: PointKind::Read,
                points: points.iter().map(point).collect(),
            }],
            fits: vec![Fitted { series: 0, stretch: None, range: None, outcome }],
            bars: true,
            band: false,
            residuals: None,
            look: None,
            expected: None,
            models: Vec::new(),
        }
    }

    #[test]
    fn graphs_of_the_same_stand_in_the_same_units_and_others_apart() {
        let line = [(1.0, 2.0), (2.0, 4.1), (3.0, 5.9)];
        let (metres, centimetres) = (
            graph(("m", "s"), &line, Model::Line),
            graph(("cm", "s"), &[(100.0, 2.0), (200.0, 4.0), (300.0, 6.1)], Model::Line),
        );
        let (other, empty) = (graph(("m", "s^2"), &line, Model::Line), graph(("m", "s"), &[], Model::Line));
        let all = pooled(&[None, Some(&other), Some(&metres), Some(&centimetres), Some(&empty)]).unwrap();
        assert_eq!(all.series.iter().map(|s| s.group).collect::<Vec<_>>(), [2, 3]);
        assert_eq!((all.apart, all.x.unit.to_string().as_str()), (1, "m"));
        let far = all.series[1].points[2];
        assert!((far.x - 3.0).abs() < 1e-12 && (far.ux - 0.001).abs() < 1e-12, "{far:?}");
        assert!((all.all.unwrap().slope().unwrap().value - 2.0).abs() < 0.05);
        assert!((all.series[1].line.as_ref().unwrap().slope().unwrap().value - 2.05).abs() < 1e-9);
        // No straight line goes through all where most have bent ones, and none at all where there is nothing.
        let bent = graph(("m", "s"), &[(1.0, 1.0), (2.0, 4.0), (3.0, 9.0), (4.0, 16.0)], Model::Quadratic);
        assert!(pooled(&[Some(&bent), Some(&bent), Some(&metres)]).unwrap().all.is_none());
        assert!(pooled(&[None, Some(&empty)]).is_none() && pooled(&[]).is_none());
    }

    /// The slope of the line through all points takes in the truth as often as it says.
    #[test]
    fn the_line_through_all_says_how_well_it_is_known() {
        let mut rng = rand::rngs::StdRng::seed_from_u64(31);
        let mut chance = move || (0..12).map(|_| rng.random::<f64>()).sum::<f64>() - 6.0;
        for (groups, each) in [(5, 4), (36, 6)] {
            let mut within = [0u32; 2];
            for _ in 0..1000 {
                let mut cloud = |_| {
                    let mut point = |k| {
                        let x = 1.0 + f64::from(k) + 0.3 * chance().abs();
                        (x, 2.0 * x + 1.0 + 0.3 * chance())
                    };
                    let points: Vec<(f64, f64)> = (0..each).map(&mut point).collect();
                    graph(("m", "s"), &points, Model::Line)
                };
                let clouds: Vec<Graph> = (0..groups).map(&mut cloud).collect();
                let all = pooled(&clouds.iter().map(Some).collect::<Vec<_>>()).unwrap().all.unwrap();
                let slope = all.slope().unwrap();
                let off = (slope.value - 2.0).abs() / slope.u;
                within[0] += u32::from(off <= 1.0);
                within[1] += u32::from(off <= crate::fit::student(slope.freedom));
            }
            let [one, two] = within.map(|n| f64::from(n) / 1000.0);
            assert!((one - 0.68).abs() < 0.03 && (two - 0.95).abs() < 0.02, "{groups} groups: {one} {two}");
        }
    }
}
