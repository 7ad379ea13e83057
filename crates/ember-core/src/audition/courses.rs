//! What becomes of each part of the spectrum: partials in groups, with the course of their level before and after.

use crate::tone::Partial;
use crate::tone::Tone;
use crate::units::{amplitude, decay_rate};

/// Partials nearer than this share a band, Hz: filters that part them would ring longer than they do.
const TOGETHER_HZ: f64 = 15.0;
/// What is not louder than this any more is not made quieter, and nothing is made louder than that, as factors.
const LEAST_GAIN: f64 = 3e-5;
const MOST_GAIN: f64 = 4.0;
/// Decay rate (1/s) that is added where a group has no expected partial left at all.
const GONE: f64 = 60.0;

/// A partial whose decay is known: pitch, mode, power at the hit, amplitude decay rate (1/s).
#[derive(Clone)]
struct Falling {
    hz: f64,
    tone: Option<Tone>,
    power: f64,
    decay: f64,
}

/// Partials that are changed together.
#[derive(Debug, Clone)]
pub(super) struct Course {
    /// Middle of the group, weighted by energy, Hz.
    pub hz: f64,
    /// By how much its pitch moves, Hz.
    pub moves_hz: f64,
    /// (power at the hit, amplitude decay rate 1/s) before and after.
    before: Vec<(f64, f64)>,
    after: Vec<(f64, f64)>,
}

impl Course {
    /// Factor on the amplitude at `t` s after the hit.
    pub fn gain(&self, t: f64) -> f64 {
        // Drawn to the slowest of both, so that nothing runs out of digits.
        let slowest = self.before.iter().chain(&self.after).map(|tone| tone.1).fold(f64::INFINITY, f64::min);
        let power = |tones: &[(f64, f64)]| tones.iter().map(|(power, decay)| power * (-2.0 * (decay - slowest) * t).exp()).sum::<f64>();
        (power(&self.after) / power(&self.before).max(1e-300)).sqrt().clamp(LEAST_GAIN, MOST_GAIN)
    }

    /// Energy it loses beside what it had, as an added amplitude decay rate, 1/s.
    fn added_decay(&self) -> f64 {
        let mean = |tones: &[(f64, f64)]| {
            let all: f64 = tones.iter().map(|tone| tone.0).sum();
            tones.iter().map(|(power, decay)| power * decay).sum::<f64>() / all.max(1e-300)
        };
        (mean(&self.after) - mean(&self.before)).max(0.0)
    }
}

/// Groups of `before`, low to high, with what `after` makes of them. Partials belong together by their mode; one without goes with
/// the nearest in pitch.
pub(super) fn courses(before: &[Partial], after: &[Partial]) -> Vec<Course> {
    let known = |partials: &[Partial]| -> Vec<Falling> {
        let tone =
            |p: &Partial| Some(Falling { hz: p.hz, tone: p.tone, power: amplitude(p.level_db).powi(2), decay: decay_rate(p.t60_s?) });
        partials.iter().filter_map(tone).collect()
    };
    let mut before = known(before);
    before.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    let mut groups: Vec<Vec<Falling>> = Vec::new();
    for tone in before {
        let belongs = |last: &Falling| tone.hz - last.hz < TOGETHER_HZ || (tone.tone.is_some() && last.tone == tone.tone);
        match groups.last_mut() {
            Some(group) if group.last().is_some_and(belongs) => group.push(tone),
            _ => groups.push(vec![tone]),
        }
    }
    let mut courses: Vec<Course> = groups
        .iter()
        .map(|group| {
            let before: Vec<(f64, f64)> = group.iter().map(|tone| (tone.power, tone.decay)).collect();
            Course { hz: middle(group), moves_hz: 0.0, before, after: Vec::new() }
        })
        .collect();
    let mut moved: Vec<Vec<Falling>> = vec![Vec::new(); groups.len()];
    for tone in known(after) {
        let of_mode = groups.iter().position(|group| tone.tone.is_some() && group.iter().any(|other| other.tone == tone.tone));
        let nearest = || (0..groups.len()).min_by(|a, b| (courses[*a].hz - tone.hz).abs().total_cmp(&(courses[*b].hz - tone.hz).abs()));
        if let Some(index) = of_mode.or_else(nearest) {
            moved[index].push(tone);
        }
    }
    for (course, tones) in courses.iter_mut().zip(moved) {
        if tones.is_empty() {
            course.after = course.before.iter().map(|(power, decay)| (*power, decay + GONE)).collect();
        } else {
            course.moves_hz = middle(&tones) - course.hz;
            course.after = tones.iter().map(|tone| (tone.power, tone.decay)).collect();
        }
    }
    courses
}

/// What lies above the highest partial: it loses as the highest groups do.
pub(super) fn above(courses: &[Course]) -> f64 {
    let highest = &courses[courses.len().saturating_sub(2)..];
    highest.iter().map(Course::added_decay).sum::<f64>() / highest.len().max(1) as f64
}

/// Mean pitch weighted by power.
fn middle(tones: &[Falling]) -> f64 {
    let all: f64 = tones.iter().map(|tone| tone.power).sum();
    tones.iter().map(|tone| tone.hz * tone.power).sum::<f64>() / all
}

#[cfg(test)]
mod tests {
    use super::*;

    fn partial(hz: f64, t60: f64, level_db: f64, mode: Option<&str>) -> Partial {
        Partial { hz, t60_s: Some(t60), t60_sd_s: None, t60_scatter_s: None, level_db, tone: mode.and_then(Tone::read) }
    }

    /// Of a pair, one member is damped and the other rings on: their band first falls fast, then as the one that is left.
    #[test]
    fn a_pair_shares_a_band_and_its_slower_member_is_left() {
        let before =
            [partial(140.0, 0.9, 0.0, Some("(0,1)")), partial(222.0, 0.8, -3.0, Some("(1,1)")), partial(222.0, 0.8, -3.0, Some("(1,1)"))];
        let after =
            [partial(138.0, 0.7, 0.0, Some("(0,1)")), partial(215.0, 0.1, -3.0, Some("(1,1)")), partial(222.0, 0.8, -3.0, Some("(1,1)"))];
        let courses = courses(&before, &after);
        assert_eq!(courses.len(), 2);
        assert!((courses[0].moves_hz + 2.0).abs() < 1e-9 && courses[1].moves_hz < 0.0);
        assert!((courses[1].gain(0.0) - 1.0).abs() < 1e-9);
        // Half of the power is left.
        assert!((courses[1].gain(0.5) - 0.5f64.sqrt()).abs() < 1e-3, "{}", courses[1].gain(0.5));
        assert!(courses[0].gain(0.5) < courses[0].gain(0.1) && above(&courses) > 0.0);
    }

    #[test]
    fn what_has_no_mode_goes_with_the_nearest_and_what_is_gone_fades() {
        let courses = courses(&[partial(140.0, 0.9, 0.0, None), partial(400.0, 0.5, -6.0, None)], &[partial(141.0, 0.9, 0.0, None)]);
        assert_eq!(courses.len(), 2);
        assert!((courses[0].gain(1.0) - 1.0).abs() < 1e-6, "as it was");
        assert!(courses[1].gain(0.3) < 1e-4 && courses[1].gain(30.0) >= LEAST_GAIN, "it fades to the end");
    }
}
