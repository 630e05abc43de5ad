//! Tests that share everything but chance, gathered.

use super::Tested;

/// Tests of one setup in one sitting at one server.
#[derive(Clone, Debug)]
pub(super) struct Cell {
    pub(super) sitting: usize,
    /// Places in the list of effects, and what each is multiplied by there.
    pub(super) effects: [(usize, f64); 4],
    /// Sum of the tests' weights.
    pub(super) weight: f64,
    /// Weighted mean, less the overall mean.
    pub(super) mean: f64,
    /// How calm the hours of its setup are against others': what the variance of an hour is divided by.
    pub(super) calm: f64,
    tests: Vec<usize>,
}

/// All cells, sorted by sitting, with what the scatter of tests is learned from.
#[derive(Clone, Debug)]
pub(super) struct Cells {
    pub(super) list: Vec<Cell>,
    pub(super) setups: usize,
    pub(super) parts: usize,
    pub(super) servers: usize,
    /// Overall mean of the logarithms.
    pub(super) centre: f64,
    /// Weighted squares about the cells' means, and entries less cells.
    pub(super) squares: f64,
    pub(super) freedom: f64,
    /// The cell of each test.
    pub(super) of_test: Vec<usize>,
}

impl Cells {
    pub(super) fn of(tests: &[Tested], parts: usize) -> Option<Self> {
        let fine = |one: &Tested| one.ln.is_finite() && one.covariate.is_finite() && one.tests >= 1.0;
        if tests.is_empty() || !tests.iter().all(fine) {
            return None;
        }
        let most = |of: fn(&Tested) -> usize| tests.iter().map(of).max().map_or(0, |most| most + 1);
        let parts = parts.max(most(|one| one.part));
        let (setups, servers) = (most(|one| one.setup), most(|one| one.server));
        if !(0..setups).all(|setup| tests.iter().any(|one| one.setup == setup)) {
            return None;
        }
        let mut order: Vec<usize> = (0..tests.len()).collect();
        let key = |at: &usize| (tests[*at].sitting, tests[*at].setup, tests[*at].server);
        order.sort_by_key(key);
        let mut list: Vec<Cell> = Vec::new();
        let mut of_test = vec![0; tests.len()];
        for group in order.chunk_by(|a, b| key(a) == key(b)) {
            let one = &tests[group[0]];
            let covariate = group.iter().map(|at| tests[*at].covariate).sum::<f64>() / group.len() as f64;
            for at in group {
                of_test[*at] = list.len();
            }
            list.push(Cell {
                sitting: one.sitting,
                effects: [
                    (one.setup, 1.0),
                    (setups + one.part, 1.0),
                    (setups + parts + one.server, 1.0),
                    (setups + parts + servers, covariate),
                ],
                weight: 0.0,
                mean: 0.0,
                calm: 1.0,
                tests: group.to_vec(),
            });
        }
        let centre = tests.iter().map(|one| one.ln).sum::<f64>() / tests.len() as f64;
        let mut cells = Self { list, setups, parts, servers, centre, squares: 0.0, freedom: 0.0, of_test };
        cells.weigh(tests, &vec![1.0; tests.len()]);
        Some(cells)
    }

    /// Effects that are not a sitting's: setups, parts of the day, servers, the slope.
    pub(super) fn size(&self) -> usize {
        self.setups + self.parts + self.servers + 1
    }

    /// The setup of a cell.
    pub(super) fn setup(cell: &Cell) -> usize {
        cell.effects[0].0
    }

    /// As many sittings as said, evenly chosen; `None` where there are no more than these. Enough to learn the scatters of a long record.
    pub(super) fn few(&self, sittings: usize, tests: &[Tested], weights: &[f64]) -> Option<Self> {
        let visits: Vec<&[Cell]> = self.list.chunk_by(|a, b| a.sitting == b.sitting).collect();
        if visits.len() <= sittings {
            return None;
        }
        let chosen = (0..sittings).map(|at| visits[at * visits.len() / sittings]);
        let list = chosen.flatten().cloned().collect();
        let mut few = Self { list, of_test: Vec::new(), ..*self };
        few.weigh(tests, weights);
        Some(few)
    }

    /// Sets how calm the hours of each setup are.
    pub(super) fn calm(&mut self, calm: &[f64]) {
        for cell in &mut self.list {
            cell.calm = calm[Self::setup(cell)];
        }
    }

    /// Gathers the tests anew, each with its weight.
    pub(super) fn weigh(&mut self, tests: &[Tested], weights: &[f64]) {
        let entries: usize = self.list.iter().map(|cell| cell.tests.len()).sum();
        (self.squares, self.freedom) = (0.0, (entries - self.list.len()) as f64);
        for cell in &mut self.list {
            let of = |at: &usize| (tests[*at].tests * weights[*at], tests[*at].ln - self.centre);
            let each = cell.tests.iter().map(of);
            cell.weight = each.clone().map(|(weight, _)| weight).sum();
            cell.mean = each.clone().map(|(weight, ln)| weight * ln).sum::<f64>() / cell.weight;
            self.squares += each.map(|(weight, ln)| weight * (ln - cell.mean).powi(2)).sum::<f64>();
        }
    }
}
