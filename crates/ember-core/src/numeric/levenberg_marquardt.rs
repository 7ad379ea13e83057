//! Non-linear least squares: Gauss-Newton steps, damped where they lead nowhere (K. Levenberg, Quart. Appl. Math. 2, 1944; D. W. Marquardt,
//! J. SIAM 11, 1963).

use super::normal_equations::NormalEquations;

/// Something that is fitted by least squares.
pub(crate) trait LeastSquares {
    /// Fills in the normal equations where the parameters are: the lower triangle of the normal matrix, and the gradient.
    fn linearize(&mut self, normal: &mut NormalEquations, gradient: &mut [f64]);

    /// Sum of squares where the parameters are.
    fn error(&self) -> f64;

    /// Sum of squares where `step` leads to; `None` where it leads to what cannot be.
    fn look_at(&mut self, step: &[f64]) -> Option<f64>;

    /// Goes to where the last step looked at leads.
    fn go_there(&mut self);
}

/// How a descent is damped, and when it ends.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Descent {
    /// Damping to begin with, as a part of the normal matrix's diagonal.
    pub damping: f64,
    /// By what it is multiplied after a step that led down, and after one that did not.
    pub eased: f64,
    pub raised: f64,
    pub most_steps: usize,
    /// A step that gains no more than this part of the sum of squares is the last.
    pub least_gain: f64,
}

/// Damping goes no lower than this; beyond the other no step leads down any more.
const LEAST_DAMPING: f64 = 1e-12;
const MOST_DAMPING: f64 = 1e8;

/// How a descent ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Stop {
    /// At a minimum, or after as many steps as it was given.
    Ended,
    /// The parameters cannot be told from one another: the normal matrix is not positive definite.
    Degenerate,
}

/// Takes `fitted` down to where its sum of squares is least. `normal` then holds the normal equations there, to within the last and smallest step.
pub(crate) fn descend(fitted: &mut impl LeastSquares, descent: Descent, normal: &mut NormalEquations) -> Stop {
    let mut gradient = vec![0.0; normal.size()];
    let mut damping = descent.damping;
    let mut has_moved = true;
    for _ in 0..descent.most_steps {
        // After a step that was refused everything is still as it was.
        if has_moved {
            fitted.linearize(normal, &mut gradient);
        }
        let Some(step) = normal.solve(damping, &gradient) else { return Stop::Degenerate };
        let error = fitted.error();
        let found = fitted.look_at(&step).filter(|found| *found <= error);
        has_moved = found.is_some();
        match found {
            Some(found) => {
                fitted.go_there();
                damping = (damping * descent.eased).max(LEAST_DAMPING);
                if error - found <= descent.least_gain * error {
                    return Stop::Ended;
                }
            }
            None => {
                damping *= descent.raised;
                if damping > MOST_DAMPING {
                    break;
                }
            }
        }
    }
    if has_moved {
        fitted.linearize(normal, &mut gradient);
    }
    Stop::Ended
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Rosenbrock's valley as least squares (H. H. Rosenbrock, Computer Journal 3, 1960): 10 (y - x^2) and 1 - x, least at (1, 1).
    struct Valley {
        here: [f64; 2],
        there: [f64; 2],
    }

    fn errors([x, y]: [f64; 2]) -> [f64; 2] {
        [10.0 * (y - x * x), 1.0 - x]
    }

    impl LeastSquares for Valley {
        fn linearize(&mut self, normal: &mut NormalEquations, gradient: &mut [f64]) {
            let [x, _] = self.here;
            let slopes = [[-20.0 * x, 10.0], [-1.0, 0.0]];
            for row in 0..2 {
                for column in 0..=row {
                    normal.set(row, column, slopes.iter().map(|slope| slope[row] * slope[column]).sum());
                }
                gradient[row] = -slopes.iter().zip(errors(self.here)).map(|(slope, error)| slope[row] * error).sum::<f64>();
            }
        }

        fn error(&self) -> f64 {
            errors(self.here).iter().map(|error| error * error).sum()
        }

        fn look_at(&mut self, step: &[f64]) -> Option<f64> {
            self.there = [self.here[0] + step[0], self.here[1] + step[1]];
            Some(errors(self.there).iter().map(|error| error * error).sum())
        }

        fn go_there(&mut self) {
            self.here = self.there;
        }
    }

    #[test]
    fn the_valley_of_the_textbook_is_followed_to_its_end() {
        let mut valley = Valley { here: [-1.2, 1.0], there: [0.0; 2] };
        let descent = Descent { damping: 1e-3, eased: 0.3, raised: 6.0, most_steps: 100, least_gain: 0.0 };
        assert_eq!(descend(&mut valley, descent, &mut NormalEquations::zeros(2)), Stop::Ended);
        assert!(valley.here.iter().all(|x| (x - 1.0).abs() < 1e-6), "{:?}", valley.here);
    }
}
