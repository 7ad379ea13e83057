//! A wish taken from a sound: the sound itself fits it, and what is no single drum is refused with the reason.

use crate::common::{measured, played, wanted};
use ember_core::bench_drum::BenchDrum;
use ember_core::drum::DrumKind;
use ember_core::target::{BodyLeast, Length, Wanted, assess, built_in_preset, wish_from_sound};

#[test]
fn a_drum_fits_the_wish_that_was_taken_from_it() {
    let model = measured(&played(&BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap(), 3));
    let surf = wanted("surf", 150.0, DrumKind::Tom, &model);
    assert!(!assess(&model.partials, &model.summary.profile, &surf, None).fits, "an open tom is too long for surf");
    let like = built_in_preset("surf").unwrap().wishes.tom;
    let wish = wish_from_sound(&model.strikes, &surf, &like).unwrap();
    let hard = Wanted { hardest_db: 6.0, softest_db: -10.0, ..surf.clone() };
    assert_eq!(wish_from_sound(&model.strikes, &hard, &like).unwrap(), wish, "how hard the song is played is no part of the model");
    let seconds = |length| match length {
        Length::Seconds(seconds) => seconds,
        Length::Note(_) => panic!("a sound has no note values"),
    };
    let BodyLeast::Length(Length::Seconds(least)) = wish.body_least else { panic!("a sound has seconds") };
    let own = Wanted {
        ring_length_most_s: seconds(wish.ring_gone),
        body_length_least_s: least,
        body_length_most_s: seconds(wish.body_most),
        ring_over_body_most: wish.ring_over_body_most,
        ..surf
    };
    let found = assess(&model.partials, &model.summary.profile, &own, None);
    assert!(found.fits && found.misfit == 0.0, "{:?}", found.off);
    assert_eq!((wish.register, wish.attack_loss_most_db), (like.register, like.attack_loss_most_db));
}

#[test]
fn two_drums_music_and_silence_are_refused_in_words() {
    let drum = |kind| measured(&played(&BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap(), 2));
    let open = drum(DrumKind::Tom);
    let surf = wanted("surf", 150.0, DrumKind::Tom, &open);
    let like = built_in_preset("surf").unwrap().wishes.tom;
    let two = [open.strikes, drum(DrumKind::Kick).strikes].concat();
    assert!(wish_from_sound(&two, &surf, &like).unwrap_err().to_string().contains("not of one drum"));
    assert!(wish_from_sound(&[], &surf, &like).unwrap_err().to_string().contains("No strike was found"));
    // Drums without a pause over a bass line: nothing decays before the next thing sounds.
    let tom = played(&BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap(), 1);
    let mut music = vec![0f32; 48_000 * 4];
    for (beat, start) in (24_000..music.len() - 4800).step_by(7200).enumerate() {
        for (n, sum) in music[start..].iter_mut().enumerate() {
            let hz = [55.0f32, 82.4, 73.4, 98.0][beat % 4];
            let bass = if n < 7200 { 0.2 * (2.0 * std::f32::consts::PI * hz * n as f32 / 48_000.0).sin() } else { 0.0 };
            *sum += bass + tom.get(24_000 + n).copied().unwrap_or(0.0) * 0.7;
        }
    }
    let strikes = measured(&music).strikes;
    let said = wish_from_sound(&strikes, &surf, &like).unwrap_err().to_string();
    assert!(said.contains("mixed music") || said.contains("can be measured"), "{said}");
}
