//! What a drummer says of drums as they sound, and does about them, teaches how far the own wish lies from the book's: one factor on all lengths, for each
//! part of the kit and genre.

use super::assess::{Assessment, OpenSound};
use super::wanted::Wanted;
use ember_words::{Words, words};
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

/// How much less a deed tells than a word: a choice has other reasons besides (from experience, no published source).
const CHOICE_LN: f64 = 0.6;

/// How a sound stands against the book's wish, as logarithms of lengths.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Standing {
    /// How much longer than the longest that is wanted, of ring and body whichever is nearer to being too long.
    pub over_most_ln: f64,
    /// How much longer the body than the shortest that is wanted; none where no shortest is known.
    pub over_least_ln: Option<f64>,
}

impl Standing {
    /// Of a sound that was `found` against the book's `wanted`; none where nothing was heard of it.
    pub fn of(found: &Assessment, wanted: &Wanted) -> Option<Self> {
        let over = |length_s: Option<f64>, limit_s: f64| length_s.map(|length_s| (length_s.max(LEAST_S) / limit_s.max(LEAST_S)).ln());
        let ring = over(found.ring_length_s, wanted.ring_length_most_s);
        let body = over(found.body_length_s, wanted.body_length_most_s);
        let over_least = over(found.body_length_softest_s, wanted.body_length_least_s).filter(|_| wanted.body_length_least_s > 0.0);
        Some(Self { over_most_ln: ring.into_iter().chain(body).reduce(f64::max)?, over_least_ln: over_least })
    }

    /// How far this sound lies outside the wish of a player who wants all lengths `exp(factor_ln)` times as long as the book has them (logarithm of lengths, 0 inside).
    fn off(&self, factor_ln: f64) -> f64 {
        let short = self.over_least_ln.map_or(0.0, |least| (factor_ln - least).max(0.0));
        (self.over_most_ln - factor_ln).max(0.0) + short
    }
}

/// What a player did that tells which of two sounds is liked better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Deed {
    /// Took a treatment off soon after it was checked: the open drum is liked better.
    TookOff,
    /// Left a treatment on for a day or more: it is liked better than the open drum.
    Kept,
    /// Chose another plan than the one that stood first.
    ChosePlan,
    /// Pinned a song to another setup than was planned.
    Pinned,
}

/// One of two sounds that was liked better, by what the player did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Preferred {
    /// What was done.
    pub deed: Deed,
    /// How the sound that was chosen stands against the book.
    pub rather: Standing,
    /// How the other one does.
    pub than: Standing,
    /// Number of the treatment that was taken off; none for another deed.
    #[serde(default)]
    pub treatment_id: Option<i64>,
}

/// Something that tells of a player's own wish.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum Evidence {
    /// It was said.
    Said(Said),
    /// It was done.
    Preferred(Preferred),
}

impl Evidence {
    /// Its log-likelihood, should the player want all lengths at `exp(factor_ln)` times the book's.
    fn log_likelihood(&self, factor_ln: f64) -> f64 {
        match self {
            Self::Said(said) => said.log_likelihood(factor_ln),
            Self::Preferred(Preferred { rather, than, .. }) => {
                // The choice between two by how far each is off (Bradley & Terry).
                let nearer = than.off(factor_ln) - rather.off(factor_ln);
                -(-nearer / CHOICE_LN).exp().ln_1p()
            }
        }
    }
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
        Standing::of(found, wanted).map(|Standing { over_most_ln, over_least_ln }| Self { opinion, over_most_ln, over_least_ln })
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
    /// From how many deeds besides.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub done: usize,
    /// The same in words.
    pub sentence: Words,
}

impl Liking {
    /// What all of `evidence` teaches (Bayes's rule on a grid: normal prior, logistic answers, as in the pairwise comparisons of Bradley & Terry,
    /// Biometrika 39, 1952). None where nothing was said or done.
    pub fn of(evidence: &[Evidence]) -> Option<Self> {
        let grid: Vec<f64> = (-STEPS..=STEPS).map(|step| MOST_LN * f64::from(step) / f64::from(STEPS)).collect();
        let log = |factor_ln: &f64| {
            -0.5 * (factor_ln / APART_LN).powi(2) + evidence.iter().map(|one| one.log_likelihood(*factor_ln)).sum::<f64>()
        };
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
        let said = evidence.iter().filter(|one| matches!(one, Evidence::Said(_))).count();
        let done = evidence.len() - said;
        let of = || Self { times, low, high, said, done, sentence: sentence((times, low, high), said, done) };
        (!evidence.is_empty() && all.is_finite()).then(of)
    }
}

/// The book's lengths are those that the genre has.
fn sentence((times, low, high): (f64, f64, f64), said: usize, done: usize) -> Words {
    let than = match (100.0 * (times - 1.0)).round() {
        0.0 => words!("as long as the genre has it"),
        percent if percent > 0.0 => words!("{percent:.0} % longer than the genre has it"),
        percent => words!("{:.0} % shorter than the genre has it", -percent),
    };
    let things = |count: usize| if count == 1 { words!("one thing") } else { words!("{count} things") };
    let from = match (said, done) {
        (said, 0) => words!("{} you said", things(said)),
        (0, done) => words!("{} you did", things(done)),
        (said, done) => words!("{} you said and {} you did", things(said), things(done)),
    };
    words!("Yours: {than}, from {from} (likely {:.0} to {:.0} % of its lengths).", 100.0 * low, 100.0 * high)
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
    use rand::{Rng, SeedableRng, rngs::StdRng};

    fn said(opinion: Opinion, over_most_ln: f64, over_least_ln: f64) -> Evidence {
        Evidence::Said(Said { opinion, over_most_ln, over_least_ln: Some(over_least_ln) })
    }

    /// Of two sounds the one that lies `rather` over the book's longest was chosen.
    fn chosen(rather: f64, than: f64) -> Evidence {
        let standing = |over: f64| Standing { over_most_ln: over, over_least_ln: Some(over + 0.6) };
        Evidence::Preferred(Preferred { deed: Deed::ChosePlan, rather: standing(rather), than: standing(than), treatment_id: None })
    }

    /// What is done tells less than what is said, and is told apart from it; a choice between two that are both right tells nothing.
    #[test]
    fn deeds_pull_more_softly_than_words() {
        let times = |evidence: Evidence| Liking::of(&[evidence]).unwrap().times;
        let (word, deed) = (times(said(Opinion::LikeIt, 0.7, 1.3)), times(chosen(0.7, -0.3)));
        assert!(1.0 < deed && deed < word, "{deed} {word}");
        assert!(times(chosen(-0.3, 0.7)) < 1.0 && (times(chosen(-0.2, -0.3)) - 1.0).abs() < 0.02);
        let both = Liking::of(&[said(Opinion::LikeIt, 0.7, 1.3), chosen(0.7, -0.3)]).unwrap();
        assert_eq!((both.said, both.done), (1, 1));
        assert!(both.sentence.contains("from one thing you said and one thing you did"), "{}", both.sentence);
        // Kept as they were and as they are: files of before hold words alone.
        for evidence in [said(Opinion::TooDead, 0.1, 0.2), chosen(0.1, 0.2)] {
            let kept = serde_json::to_string(&evidence).unwrap();
            assert_eq!(serde_json::from_str::<Evidence>(&kept).unwrap(), evidence);
        }
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
            let all: Vec<Evidence> = lengths.iter().map(|over| said(opinion(*over), *over, over + width)).collect();
            let found = Liking::of(&all).unwrap();
            prop_assert!((found.times / truth).ln().abs() < 0.3 || (found.low..=found.high).contains(&truth), "{found:?} for {truth}");
            prop_assert!(found.low <= found.times && found.times <= found.high);
        }

        /// The same of one who only ever chooses between two random sounds, sixty times: within a factor of 1.65.
        #[test]
        fn a_drummers_own_wish_is_found_in_what_is_chosen(truth in 0.6f64..1.7, seed in any::<u64>()) {
            let off = |over: f64| Standing { over_most_ln: over, over_least_ln: Some(over + 0.6) }.off(truth.ln());
            let mut rng = StdRng::seed_from_u64(seed);
            let one = |_| {
                let (a, b) = (rng.random_range(-1.0..1.0), rng.random_range(-1.0..1.0));
                if off(a) <= off(b) { chosen(a, b) } else { chosen(b, a) }
            };
            let found = Liking::of(&(0..60).map(one).collect::<Vec<_>>()).unwrap();
            prop_assert!((found.times / truth).ln().abs() < 0.5 || (found.low..=found.high).contains(&truth), "{found:?} for {truth}");
        }

        /// One more "too ringy" never lengthens, one more "too dead" never shortens.
        #[test]
        fn every_word_pulls_its_way(over in -1.0f64..1.0, least in -1.0f64..1.0, before in prop::collection::vec((-1.0f64..1.0, 0usize..3), 0..5)) {
            let opinions = [Opinion::LikeIt, Opinion::TooDead, Opinion::TooRingy];
            let before: Vec<Evidence> = before.into_iter().map(|(over, which)| said(opinions[which], over, over + 0.6)).collect();
            let times = |more: &[Evidence]| Liking::of(&[&before, more].concat()).map_or(1.0, |liking| liking.times);
            let now = times(&[]);
            prop_assert!(times(&[said(Opinion::TooRingy, over, least)]) <= now + 1e-9);
            prop_assert!(times(&[said(Opinion::TooDead, over, least)]) >= now - 1e-9);
        }
    }
}
