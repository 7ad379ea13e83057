//! How loud a drum becomes to the player, in front and inside, closed otherwise.

use super::coupled::AxialMode;
use crate::blow::{BeaterKind, Blow, CLICK_HZ};
use crate::damping::LevelChange;
use crate::drum::{Drum, Front, Head};
use crate::numeric::NINETY_SDS;
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// Times for which levels are compared, s after the strike.
const LEVEL_FROM_S: f64 = 0.01;
const LEVEL_TO_S: f64 = 0.3;
/// What the model is off by besides, dB: standard deviation, from its comparison with the simulated kick (docs/METHOD.md).
const LEVEL_SD_DB: f64 = 1.5;
/// How much less or more of a click passes film than its mass says, nine times in ten (from experience, no source).
const FILM_DOUBT: [f64; 2] = [0.5, 2.0];
/// A stick's tip touches a head about as long as a wooden beater (from experience, no source).
pub(super) const STICK: Blow = Blow { beater: BeaterKind::Wood, spot: 0.25, left_in: false };

/// How loud the drum's low tone becomes, and its click, against how it is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Levels {
    /// As the player hears the batter head.
    pub player: LevelChange,
    /// Of the front head; null where there is none.
    pub front: Option<LevelChange>,
    /// At a microphone inside.
    pub inside: LevelChange,
    /// The beater's click in front of the drum.
    pub click: LevelChange,
}

impl Levels {
    /// Of `drum` closed as `front` says: motions `now` and `then`, and those at either end of what is not known; `same` where nothing was
    /// changed.
    pub(super) fn of(drum: &Drum, front: &Front, same: bool, now: &[AxialMode], then: &[AxialMode], ends: &[&[AxialMode]; 2]) -> Self {
        let blow = Blow::usual(drum.kind).unwrap_or(STICK);
        let power = |modes: &[AxialMode], of: fn(&AxialMode) -> f64| -> f64 {
            let lasts = |mode: &AxialMode| {
                let rate = 2.0 * mode.decay;
                ((-rate * LEVEL_FROM_S).exp() - (-rate * LEVEL_TO_S).exp()) / rate
            };
            // What the beater's contact does not bring out is not heard, however readily the head would move so.
            modes.iter().map(|mode| of(mode).powi(2) * blow.power_at(mode.hz, 1.0) * lasts(mode)).sum()
        };
        let louder = |of: fn(&AxialMode) -> f64| {
            let db = |modes: &[AxialMode]| 10.0 * (power(modes, of) / power(now, of)).max(1e-9).log10();
            // What the model itself is off by counts where anything changes.
            let model = if same && db(then).abs() < 1e-6 { 0.0 } else { NINETY_SDS * LEVEL_SD_DB };
            let known = LevelChange::of(db(then), ends.iter().map(|modes| db(modes)));
            LevelChange {
                low: known.db - (known.db - known.low).hypot(model),
                high: known.db + (known.high - known.db).hypot(model),
                ..known
            }
        };
        let click = |film: f64| 10.0 * (click_passed(drum, front, film) / click_passed(drum, &drum.front(), film)).log10();
        Self {
            player: louder(|mode| mode.player),
            front: (!front.is_open() && !drum.front().is_open()).then(|| louder(|mode| mode.front)),
            inside: louder(|mode| mode.inside),
            click: LevelChange::of(click(1.0), FILM_DOUBT.map(click)),
        }
    }
}

/// Part of a click's power that passes the other end: all through openings, and through film what its mass lets pass,
/// `times` 1 / (1 + (omega m / (2 rho c))^2) (mass law; Kinsler et al., *Fundamentals of Acoustics*, 13.15).
fn click_passed(drum: &Drum, front: &Front, times: f64) -> f64 {
    if front.is_open() {
        return 1.0;
    }
    let head = drum.with_front(front).lower_film().unwrap_or(Head::plain(10.0));
    let film = times / (1.0 + (PI * CLICK_HZ * head.areal_mass() / (AIR_DENSITY * SPEED_OF_SOUND)).powi(2));
    let open = front.ports().iter().map(|port| (port.diameter_in / drum.diameter_in).powi(2)).sum::<f64>();
    open + (1.0 - open) * film
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    /// Mass law: film of 10 mil lets 2 % of a click at 2.5 kHz pass (Kinsler et al., 13.15: 16 to 17 dB for 0.35 kg/m2).
    #[test]
    fn a_click_passes_film_by_the_mass_law() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let whole = 10.0 * click_passed(&drum, &Front::Whole, 1.0).log10();
        assert!((-17.5..-15.5).contains(&whole), "{whole} dB");
        assert_eq!(click_passed(&drum, &Front::Off, 1.0), 1.0);
        let hole = click_passed(&drum, &Front::usual_port(5.0, 22.0), 1.0);
        assert!(hole > click_passed(&drum, &Front::Whole, 1.0) && hole < 0.1);
    }
}
