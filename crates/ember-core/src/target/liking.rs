//! What a drummer says of drums as they sound teaches how far the own wish lies from the book's: one factor on all lengths, for each part of the
//! kit and genre.

use super::assess::{Assessment, OpenSound};
use super::wanted::Wanted;
use serde::{Deserialize, Serialize};

/// How far drummers' wishes lie from a genre's usual one before anything was said: standard deviation of the logarithm of lengths; and how
/// sharply a length is called too long or too short (both from experience, no published source).
const APART_LN: f64 = 0.35;
const SHARP_LN: f64 = 0.3;
/// Factors that are looked at, as logarithms: to a third and to three times.
const MOST_LN: f64 = 1.1;
const STEPS: i32 = 110;
/// Lengths under this are not told from one another, s.
const LEAST_S: f64 = 0.02;

/// What is said of a drum as it sounds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Opinion {
    /// It is liked as it is.
    LikeIt,
    /// It is too dead.
    TooDead,
    /// It rings too long.
    TooRingy,
}

/// An opinion with how the drum stood against the book's wish, as logarithms of lengths.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Said {
    /// What was said.
    pub opinion: Opinion,
    /// How much longer than the longest that is wanted, of ring and body whichever is nearer to being too long.
    pub over_most_ln: f64,
    /// How much longer the body than the shortest that is wanted; none where no shortest is known.
    pub over_least_ln: Option<f64>,
}

impl Said {
    /// `opinion` on a drum that was `found` against the book's `wanted`; none where nothing was heard of it.
    pub fn of(opinion: Opinion, found: &Assessment, wanted: &Wanted) -> Option<Self> {
        let over = |length_s: Option<f64>, limit_s: f64| length_s.map(|length_s| (length_s.max(LEAST_S) / limit_s.max(LEAST_S)).ln());
        let ring = over(found.ring_length_s, wanted.ring_length_most_s);
        let body = over(found.body_length_s, wanted.body_length_most_s);
        let over_least = over(found.body_length_softest_s, wanted.body_length_least_s).filter(|_| wanted.body_length_least_s > 0.0);
        Some(Self { opinion, over_most_ln: ring.into_iter().chain(body).reduce(f64::max)?, over_least_ln: over_least })
    }

    /// Log-likelihood of this opinion, should the player want all lengths at `exp(factor_ln)` times the book's.
    fn log_likelihood(&self, factor_ln: f64) -> f64 {
        let logistic = |x: f64| -(-x / SHARP_LN).exp().ln_1p();
        let short_enough = logistic(factor_ln - self.over_most_ln);
        let least = self.over_least_ln.unwrap_or(self.over_most_ln);
        match self.opinion {
            Opinion::LikeIt => short_enough + self.over_least_ln.map_or(0.0, |least| logistic(least - factor_ln)),
            Opinion::TooDead => logistic(factor_ln - least),
            Opinion::TooRingy => logistic(self.over_most_ln - factor_ln),
        }
    }
}

/// How a drummer's own lengths lie to the book's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Liking {
    /// All lengths times this, and the bounds that hold nine times in ten.
    pub times: f64,
    /// Lower bound of what lengths are multiplied by.
    pub low: f64,
    /// Upper bound of it.
    pub high: f64,
    /// From how many opinions.
    pub said: usize,
    /// The same in words.
    pub sentence: String,
}

impl Liking {
    /// What all of `said` teach (Bayes's rule on a grid: normal prior, logistic answers, as in the pairwise comparisons of Bradley & Terry,
    /// Biometrika 39, 1952). None where nothing was said.
    pub fn of(said: &[Said]) -> Option<Self> {
        let grid: Vec<f64> = (-STEPS..=STEPS).map(|step| MOST_LN * f64::from(step) / f64::from(STEPS)).collect();
        let log =
            |factor_ln: &f64| -0.5 * (factor_ln / APART_LN).powi(2) + said.iter().map(|said| said.log_likelihood(*factor_ln)).sum::<f64>();
        let logs: Vec<f64> = grid.iter().map(log).collect();
        let top = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let weights: Vec<f64> = logs.iter().map(|log| (log - top).exp()).collect();
        let all: f64 = weights.iter().sum();
        let quantile = |part: f64| {
            let mut sum = 0.0;
            let at = weights.iter().position(|weight| {
                sum += weight / all;
                sum >= part
            });
            grid[at.unwrap_or(grid.len() - 1)].exp()
        };
        let [times, low, high] = [0.5, 0.05, 0.95].map(quantile);
        let of = |count: usize| Self { times, low, high, said: count, sentence: sentence(times, low, high, count) };
        (!said.is_empty() && all.is_finite()).then(|| of(said.len()))
    }
}

/// The book's lengths are those that the genre has.
fn sentence(times: f64, low: f64, high: f64, said: usize) -> String {
    let than = match (100.0 * (times - 1.0)).round() {
        0.0 => "as long as the genre has it".to_string(),
        percent if percent > 0.0 => format!("{percent:.0} % longer than the genre has it"),
        percent => format!("{:.0} % shorter than the genre has it", -percent),
    };
    let from = if said == 1 { "one thing".to_string() } else { format!("{said} things") };
    format!("Yours: {than}, from {from} you said (likely {:.0} to {:.0} % of its lengths).", 100.0 * low, 100.0 * high)
}

impl Wanted {
    /// The wish with all lengths as `liking` has them; never more body than the drum has with nothing on it.
    pub fn as_liked(mut self, liking: Option<Liking>, open: Option<&OpenSound>) -> Self {
        let Some(liking) = liking.filter(|_| !self.left_alone) else { return self };
        let open_s = open.and_then(|open| open.tails.body_softest_s(&self)).unwrap_or(f64::INFINITY);
        self.ring_length_most_s *= liking.times;
        self.body_length_most_s *= liking.times;
        self.body_length_least_s = (self.body_length_least_s * liking.times).min(open_s);
        self.liked = Some(liking);
        self
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn said(opinion: Opinion, over_most_ln: f64, over_least_ln: f64) -> Said {
        Said { opinion, over_most_ln, over_least_ln: Some(over_least_ln) }
    }

    #[test]
    fn nothing_said_changes_nothing_and_one_word_moves_the_wish_its_way() {
        assert_eq!(Liking::of(&[]), None);
        let one = |opinion, over_most, over_least| Liking::of(&[said(opinion, over_most, over_least)]).unwrap();
        // Within the book, and still too ringy, or still too dead.
        assert!(one(Opinion::TooRingy, -0.2, 0.4).times < 0.85 && one(Opinion::TooDead, -0.4, 0.3).times > 1.2);
        // Twice as long as the book allows, and liked.
        let liked = one(Opinion::LikeIt, 2f64.ln(), 2.0);
        assert!(liked.times > 1.25 && liked.low < liked.times && liked.times < liked.high, "{liked:?}");
        // Liked within the book: it says little.
        assert!((one(Opinion::LikeIt, -0.5, 0.5).times - 1.0).abs() < 0.05);
        assert!(liked.sentence.starts_with("Yours: ") && liked.sentence.contains("longer than the genre has it, from one thing you said"));
    }

    proptest! {
        /// A simulated drummer whose wish is `truth` times the book's, who says of random drums what that makes of them: after forty the wish
        /// is found within a third, or lies within its bounds.
        #[test]
        fn a_drummers_own_wish_is_found(truth in 0.6f64..1.7, lengths in prop::collection::vec(-1.0f64..1.0, 40)) {
            let width = 0.6;
            let opinion = |over: f64| match over - truth.ln() {
                over if over > 0.0 => Opinion::TooRingy,
                over if over < -width => Opinion::TooDead,
                _ => Opinion::LikeIt,
            };
            let all: Vec<Said> = lengths.iter().map(|over| said(opinion(*over), *over, over + width)).collect();
            let found = Liking::of(&all).unwrap();
            prop_assert!((found.times / truth).ln().abs() < 0.3 || (found.low..=found.high).contains(&truth), "{found:?} for {truth}");
            prop_assert!(found.low <= found.times && found.times <= found.high);
        }

        /// One more "too ringy" never lengthens, one more "too dead" never shortens.
        #[test]
        fn every_word_pulls_its_way(over in -1.0f64..1.0, least in -1.0f64..1.0, before in prop::collection::vec((-1.0f64..1.0, 0usize..3), 0..5)) {
            let opinions = [Opinion::LikeIt, Opinion::TooDead, Opinion::TooRingy];
            let before: Vec<Said> = before.into_iter().map(|(over, which)| said(opinions[which], over, over + 0.6)).collect();
            let times = |more: &[Said]| Liking::of(&[&before, more].concat()).map_or(1.0, |liking| liking.times);
            let now = times(&[]);
            prop_assert!(times(&[said(Opinion::TooRingy, over, least)]) <= now + 1e-9);
            prop_assert!(times(&[said(Opinion::TooDead, over, least)]) >= now - 1e-9);
        }
    }
}
