//! What covers a drum where it is played: the band, as measured or by its class, the empty room's hum, and the kit's own cymbals.

use super::note::NoteValue;
use super::preset::Preset;
use super::time_keeper::kept_time_dbfs;
use super::wanted::Situation;
use crate::drum::Drum;
use crate::venue::{Heard, Masking, Octaves, Venue, at_hz};
use ember_words::{Words, text, words};

/// What covers a drum, and how that is known.
pub(super) struct Covered {
    /// The level that each tone must exceed to be heard.
    pub masking: Masking,
    heard: Heard,
    /// Whether cymbals that keep time are part of it.
    with_cymbals: bool,
}

impl Covered {
    pub fn new(situation: &Situation, drum: &Drum, strike_dbfs: Option<f64>) -> Self {
        let Situation { preset, music, venue, time_keepers } = *situation;
        let heard = venue.map_or(Heard::BareEar, |venue| venue.heard);
        let class = Masking::of_class(venue.and_then(|venue| venue.loudness).unwrap_or(preset.loudness), heard);
        let of = |levels: &[Octaves<Option<f64>>]| strike_dbfs.and_then(|dbfs| Masking::of_levels(levels, dbfs));
        let empty = venue.and_then(|venue| venue.empty).map(|empty| empty.level_dbfs);
        let Some(band) = venue.and_then(|venue| venue.band) else {
            // Hum and fans of the empty room add to a band that is only classed.
            let masking = empty.and_then(|empty| of(&[empty])).map_or(class, |empty| class.with(&empty));
            return Self { masking, heard, with_cymbals: false };
        };
        // A recording with drums in it has the cymbals too, and a cymbal does not cover itself.
        let cymbals =
            kept_time_dbfs(time_keepers, music.pulse().seconds(NoteValue::Eighth)).filter(|_| !band.drums_play && !drum.kind.is_metal());
        let levels: Vec<Octaves<Option<f64>>> = [Some(band.level_dbfs), empty, cymbals].into_iter().flatten().collect();
        let measured = of(&levels);
        Self { masking: measured.unwrap_or(class), heard, with_cymbals: measured.is_some() && cymbals.is_some() }
    }

    /// In a sentence. 250 Hz stands for all octaves: it is where most rings lie.
    pub fn said(&self, preset: &Preset, venue: Option<&Venue>) -> Words {
        let below = -at_hz(&self.masking.threshold_db, 250.0);
        let cover = if self.with_cymbals { text!("the band and your own cymbals cover") } else { text!("the band covers") };
        let covers = words!("{cover} what is {below:.0} dB below a strike at 250 Hz");
        match venue {
            Some(venue) if self.masking.measured && venue.band.is_some_and(|band| band.drums_play) => words!(
                "In the {}, as measured, {covers}: but drums play in that recording, and cover themselves. Listen to the band again without drums.",
                venue.name
            ),
            Some(venue) if self.masking.measured => words!("In the {}, as measured, {covers}.", venue.name),
            Some(venue) => {
                let class = venue.loudness.unwrap_or(preset.loudness).info().name.within();
                let through =
                    if self.heard == Heard::BareEar { Words::default() } else { words!(", heard by {}", self.heard.info().name.within()) };
                words!("In the {} ({class}{through}) {covers}.", venue.name)
            }
            None => words!("In {}, {} as usual, {covers}.", preset.said_name().within(), preset.loudness.info().name.within()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::decay::TakeSummary;
    use crate::drum::{DrumKind, Struck};
    use crate::target::{Music, TimeKeeper, built_in_preset};
    use crate::tone::{Partial, Tone};
    use crate::venue::{BandLevels, Room, RoomClass};

    /// A quiet band that was measured, beside a closed hi-hat: it covers what is high, and said it is; nothing where drums play in the recording, where no
    /// band was measured, and on a cymbal.
    #[test]
    fn cymbals_that_keep_time_cover_with_a_measured_band() {
        let hat = Drum { struck: Some(Struck::Closed), ..Drum::usual(DrumKind::HiHat) };
        let octave = |hz: u16| Partial {
            hz: f64::from(hz),
            t60_s: Some(0.6),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db: 0.0,
            tone: Some(Tone::OctaveHz(hz)),
        };
        let summary = TakeSummary { partial_dbfs: Some(-20.0), ..TakeSummary::default() };
        let keepers: Vec<TimeKeeper> = TimeKeeper::new(&hat, &[octave(2000), octave(4000)], &summary).into_iter().collect();
        let music = Music::new("surf", 152.0);
        let preset = built_in_preset("surf").unwrap();
        let place = |band: Option<BandLevels>| Venue {
            name: "Loft".into(),
            room: Room::Class { class: RoomClass::OpenAir },
            loudness: None,
            heard: Heard::BareEar,
            band,
            empty: None,
            notes: String::new(),
            room_modes: Vec::new(),
            distance_m: None,
        };
        let measured = |drums_play| place(Some(BandLevels { level_dbfs: [Some(-70.0); 7], seconds: 10.0, drums_play }));
        let of = |venue: &Venue, drum: &Drum, time_keepers| {
            let covered = Covered::new(&Situation { preset, music: &music, venue: Some(venue), time_keepers }, drum, Some(-14.0));
            (covered.masking.threshold_db, covered.said(preset, Some(venue)))
        };
        let tom = Drum::usual(DrumKind::Tom);
        let (without, said_without) = of(&measured(false), &tom, &[]);
        let (with, said) = of(&measured(false), &tom, &keepers);
        assert!(with[6] > without[6] + 6.0 && (with[2] - without[2]).abs() < 0.1, "{with:?} {without:?}");
        assert!(said.contains("your own cymbals") && !said_without.contains("cymbals"), "{said}");
        for (venue, drum) in [(measured(true), &tom), (place(None), &tom), (measured(false), &hat)] {
            assert_eq!(of(&venue, drum, &keepers), of(&venue, drum, &[]));
        }
    }
}
