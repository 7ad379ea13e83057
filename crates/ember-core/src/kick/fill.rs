//! The fill dial: what can be laid into a kick, from hardly touching to pressed on the batter, in steps that hands can do.

use crate::damping::{DeviceKind, Placement, device_info};

/// What fills a kick, or damps it without lying on its playing surface.
pub const FILLS: [DeviceKind; 7] = [
    DeviceKind::Pillow,
    DeviceKind::Blanket,
    DeviceKind::Towel,
    DeviceKind::FoamBlock,
    DeviceKind::StuffedShirt,
    DeviceKind::InflatedTube,
    DeviceKind::FeltStrip,
];

/// Every step of `fill`: each of its amounts where it lies.
pub fn dial(fill: DeviceKind) -> Vec<Placement> {
    let step = |amount| Placement { device: fill, amount, radius: 0.85, angle_deg: 180.0, made: None, other_head: false };
    (0..device_info(fill).amounts.len()).map(step).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{Drum, DrumKind, Front};

    #[test]
    fn what_is_larger_than_the_drum_is_refused_in_words() {
        let tiny = Drum { diameter_in: 10.0, depth_in: 6.0, ..BenchDrum::usual(DrumKind::Kick) };
        let refused = dial(DeviceKind::Pillow)[0].validate(&tiny).unwrap_err().to_string();
        assert!(refused.contains("15 l") && refused.contains("larger than the drum (8 l)"), "{refused}");
        assert!(dial(DeviceKind::Towel)[0].validate(&tiny).is_ok());
    }

    /// Every step fits a kick, whole or open; what would press on a front head that is off presses on the batter alone.
    #[test]
    fn every_step_of_every_fill_fits_a_kick() {
        let kick = BenchDrum::usual(DrumKind::Kick);
        for fill in FILLS {
            let steps = dial(fill);
            assert_eq!(steps.len(), device_info(fill).amounts.len());
            for step in steps {
                step.validate(&kick).unwrap_or_else(|error| panic!("{error}"));
                assert!(!step.patches(&kick).is_empty() && step.air_loss(&kick) >= 0.0);
            }
        }
        let open = kick.with_front(&Front::Off);
        let pressed = Placement::parse("pillow:2").unwrap();
        assert!(pressed.validate(&open).is_ok() && pressed.patches(&open).len() == 1);
        assert!(Placement::parse("pillow:4").unwrap().validate(&open).is_err(), "it would touch nothing");
    }

    /// Air in a shallow drum is stiffer, and loses more to the same fill.
    #[test]
    fn fill_takes_more_of_the_air_in_a_shallow_drum() {
        let kick = BenchDrum::usual(DrumKind::Kick);
        let shallow = Drum { depth_in: 8.0, ..kick.clone() };
        let pillow = Placement::parse("pillow:1").unwrap();
        assert!((pillow.air_loss(&shallow) / pillow.air_loss(&kick) - 2.0).abs() < 1e-9);
        assert_eq!(Placement::parse("gel_pad:0").unwrap().air_loss(&kick), 0.0);
    }
}
