//! The solver against brute force, and against what must hold for any evening.

use super::*;
use proptest::prelude::*;

/// Every way there is, cheapest first.
fn brute_force(tableau: &Tableau) -> Vec<(f64, Way)> {
    let sizes: Vec<usize> = (0..tableau.songs()).flat_map(|_| tableau.drums.iter().map(|drum| drum.start.len())).collect();
    let mut all = vec![Vec::new()];
    for size in sizes {
        all = all.into_iter().flat_map(|way: Vec<usize>| (0..size).map(move |s| [way.clone(), vec![s]].concat())).collect();
    }
    let mut ways: Vec<(f64, Way)> = all
        .into_iter()
        .map(|flat| flat.chunks(tableau.drums.len()).map(<[usize]>::to_vec).collect::<Way>())
        .map(|way| (tableau.cost(&way), way))
        .filter(|(cost, _)| cost.is_finite())
        .collect();
    ways.sort_by(|a, b| a.0.total_cmp(&b.0));
    ways
}

prop_compose! {
    fn choices(songs: usize, setups: usize)(
        cost in prop::collection::vec(prop::collection::vec(0f64..10.0, setups), songs),
        start in prop::collection::vec(0f64..2.0, setups),
        seconds in prop::collection::vec(5f64..60.0, setups * setups),
        uses in prop::collection::vec(prop::collection::vec(0u32..3, 2), setups),
        pin in prop::option::of((0..songs, 0..setups)),
    ) -> Choices {
        let mut cost = cost;
        if let Some((song, setup)) = pin {
            for (s, cost) in cost[song].iter_mut().enumerate() {
                if s != setup { *cost = f64::INFINITY; }
            }
        }
        let change_s = (0..setups).map(|a| (0..setups).map(|b| if a == b { 0.0 } else { seconds[a.min(b) * setups + a.max(b)] }).collect()).collect();
        Choices { cost, start, change_s, in_front: vec![vec![false; setups]; setups], uses }
    }
}

prop_compose! {
    fn tableaus()(songs in 1usize..4, drums in 1usize..4)(
        drums in prop::collection::vec(choices(songs, if songs * drums > 6 { 2 } else { 3 }), drums),
        gaps_s in prop::collection::vec(prop_oneof![Just(f64::INFINITY), 0f64..90.0], songs),
        owned in prop::collection::vec(0u32..5, 2),
        per_second in prop_oneof![Just(0.0), 0f64..0.2],
    ) -> Tableau {
        Tableau { drums, breaks: vec![false; gaps_s.len()], gaps_s, owned, per_second }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    #[test]
    fn best_and_second_best_are_those_of_brute_force(tableau in tableaus()) {
        let ways = brute_force(&tableau);
        let solution = tableau.solve(Patience::ENDLESS).unwrap();
        prop_assert!(solution.proved);
        prop_assert!((solution.cost - ways[0].0).abs() < 1e-6, "{} where {} is possible", solution.cost, ways[0].0);
        prop_assert!((tableau.cost(&solution.way) - solution.cost).abs() < 1e-6);
        match (solution.second, ways.get(1)) {
            (Some((way, cost)), Some((expected, _))) => {
                prop_assert!((cost - expected).abs() < 1e-6, "second {cost} where {expected} is possible");
                prop_assert!(way != solution.way);
            }
            (found, expected) => prop_assert_eq!(found.is_some(), expected.is_some()),
        }
    }
}

/// Evenings too large for brute force.
fn long_evenings() -> impl Strategy<Value = Tableau> {
    let drums = prop::collection::vec(choices(10, 5), 3);
    let gaps = prop::collection::vec(prop_oneof![Just(f64::INFINITY), 0f64..90.0], 10);
    (drums, gaps, prop::collection::vec(1u32..5, 2), 0f64..0.2).prop_map(|(drums, gaps_s, owned, per_second)| Tableau {
        drums,
        breaks: vec![false; gaps_s.len()],
        gaps_s,
        owned,
        per_second,
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn no_way_at_hand_beats_the_one_that_is_given(tableau in long_evenings(), picks in prop::collection::vec(0usize..5, 30)) {
        let solution = tableau.solve(Patience::ENDLESS).unwrap();
        prop_assert!(solution.bound <= solution.cost + 1e-6);
        prop_assert!((tableau.cost(&solution.way) - solution.cost).abs() < 1e-6);
        // A way picked at random, made as good as changing one drum after the other makes it.
        let mut way: Way = picks.chunks(3).map(<[usize]>::to_vec).collect();
        let improved = tableau.improve(&mut way, Patience::ENDLESS);
        prop_assert!((improved - tableau.cost(&way)).abs() < 1e-6 || improved.is_infinite());
        prop_assert!(improved >= solution.bound - 1e-6, "{improved} is under the bound {}", solution.bound);
        if solution.proved {
            prop_assert!(improved >= solution.cost - 1e-6, "{improved} where {} was called the best", solution.cost);
            if let Some((_, second)) = solution.second {
                prop_assert!(second >= solution.cost - 1e-9);
            }
        }
    }

    #[test]
    fn more_time_and_more_devices_never_cost_more(tableau in tableaus(), more_s in 0f64..30.0, device in 0usize..2) {
        let cost = tableau.solve(Patience::ENDLESS).unwrap().cost;
        let mut roomier = tableau.clone();
        roomier.gaps_s.iter_mut().for_each(|gap| *gap += more_s);
        prop_assert!(roomier.solve(Patience::ENDLESS).unwrap().cost <= cost + 1e-6);
        let mut richer = tableau.clone();
        richer.owned[device] += 1;
        prop_assert!(richer.solve(Patience::ENDLESS).unwrap().cost <= cost + 1e-6);
    }

    /// Drums that share neither time nor devices are chosen each by itself.
    #[test]
    fn free_drums_are_solved_one_by_one(mut tableau in tableaus()) {
        tableau.gaps_s.iter_mut().for_each(|gap| *gap = f64::INFINITY);
        tableau.owned = vec![100, 100];
        let alone = |drum: &Choices| Tableau { drums: vec![drum.clone()], ..tableau.clone() }.solve(Patience::ENDLESS).unwrap().cost;
        let sum: f64 = tableau.drums.iter().map(alone).sum();
        prop_assert!((tableau.solve(Patience::ENDLESS).unwrap().cost - sum).abs() < 1e-6);
    }
}

#[test]
fn one_way_only_has_no_second() {
    let only =
        Choices { cost: vec![vec![1.5]; 3], start: vec![0.5], change_s: vec![vec![0.0]], in_front: vec![vec![false]], uses: vec![vec![0]] };
    let solution = Tableau { drums: vec![only], gaps_s: vec![10.0; 3], breaks: vec![false; 3], owned: vec![0], per_second: 0.1 }
        .solve(Patience::ENDLESS)
        .unwrap();
    assert_eq!((solution.cost, solution.second, solution.proved), (5.0, None, true));
}

#[test]
fn nothing_to_choose_is_no_answer() {
    let empty = Tableau { drums: Vec::new(), gaps_s: Vec::new(), breaks: Vec::new(), owned: Vec::new(), per_second: 0.1 };
    assert!(empty.solve(Patience::ENDLESS).is_none());
}

proptest! {
    #[test]
    fn without_patience_there_is_a_way_all_the_same(tableau in long_evenings()) {
        let over = || true;
        let found = tableau.solve(Patience::until(&over)).unwrap();
        prop_assert!((tableau.cost(&found.way) - found.cost).abs() < 1e-6 && found.bound <= found.cost + 1e-6);
        prop_assert!(tableau.solve(Patience::ENDLESS).unwrap().cost <= found.cost + 1e-6);
    }
}

#[test]
fn an_evening_that_cannot_be_ends_with_an_answer() {
    for cost in [f64::INFINITY, f64::NAN] {
        let drum = Choices {
            cost: vec![vec![cost; 2]; 3],
            start: vec![0.0; 2],
            change_s: vec![vec![0.0; 2]; 2],
            in_front: vec![vec![false; 2]; 2],
            uses: vec![vec![0]; 2],
        };
        let tableau = Tableau { drums: vec![drum], gaps_s: vec![10.0; 3], breaks: vec![false; 3], owned: vec![1], per_second: 0.1 };
        assert_eq!(tableau.solve(Patience::ENDLESS).map(|solution| solution.way.len()), Some(3));
    }
}

/// Every way to play every song in one of at most `most` looks, its looks among all joint setups.
fn fewest_cost(tableau: &Tableau, habits: Habits) -> f64 {
    let joint: Vec<Vec<usize>> = tableau.drums.iter().fold(vec![Vec::new()], |all, drum| {
        all.into_iter().flat_map(|setups: Vec<usize>| (0..drum.start.len()).map(move |s| [setups.clone(), vec![s]].concat())).collect()
    });
    let pairs = joint.iter().flat_map(|a| joint.iter().map(move |b| vec![a.clone(), b.clone()]));
    pairs.map(|looks| tableau.played_cost(&looks, habits)).fold(f64::INFINITY, f64::min)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]
    /// Going downhill finds the best two looks or something near, and never costs less than nothing can.
    #[test]
    fn looks_are_near_the_best_and_never_below_the_bound(tableau in tableaus()) {
        let habits = Habits { most: 2, per_change: 0.5, per_look: 0.0, part_of_gap: 1.0 };
        let first: Vec<usize> = tableau.drums.iter().map(|_| 0).collect();
        let found = tableau.in_looks(first, habits, Patience::ENDLESS);
        prop_assert!(found.bound <= tableau.cost(&found.way) + 1e-6 && tableau.cost(&found.way) <= found.cost + 1e-6);
        let best = fewest_cost(&tableau, habits);
        prop_assert!(found.cost >= best - 1e-6, "{} where nothing is below {best}", found.cost);
        prop_assert!(found.cost <= 1.5 * best + 5.0, "{} where {best} is possible", found.cost);
        for (song, look) in found.played.iter().enumerate() {
            for (d, drum) in tableau.drums.iter().enumerate() {
                let is_free = drum.cost[song].iter().all(|cost| cost.is_finite());
                prop_assert!(!is_free || found.way[song][d] == found.looks[*look][d]);
            }
        }
    }
}
