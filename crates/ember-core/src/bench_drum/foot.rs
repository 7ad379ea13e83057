//! A beater that a foot keeps pressing: a body of its own, which the head throws back.

use std::f64::consts::PI;

/// What felt and joints take where beater and head meet, as a part of the force per speed at which they meet, s/m (Hunt & Crossley,
/// J. Appl. Mech. 42, 1975).
const GIVE: f64 = 0.5;

/// A foot that presses a beater against the batter head, and goes on pressing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Foot {
    /// What moves with the beater, kg.
    pub mass: f64,
    /// Speed at which it lands, m/s.
    pub speed: f64,
    /// Force with which the foot goes on pressing, N.
    pub push: f64,
}

/// One time that the beater touches the head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Touch {
    /// From when to when, s after the beater landed first.
    pub from_s: f64,
    /// Until then, s.
    pub to_s: f64,
    /// How fast beater and head meet, m/s.
    pub speed: f64,
}

/// The beater under the foot, stepped in time beside the head. It lands at time 0; motion into the drum counts as positive.
pub(super) struct PressedBeater {
    foot: Foot,
    stiffness: f64,
    position: f64,
    speed: f64,
    time: f64,
    pub touches: Vec<Touch>,
    touching: bool,
}

impl PressedBeater {
    /// `contact_s`: how long the beater would touch a wall.
    pub fn new(foot: Foot, contact_s: f64) -> Self {
        let stiffness = foot.mass * (PI / contact_s).powi(2);
        Self { foot, stiffness, position: 0.0, speed: foot.speed, time: 0.0, touches: Vec::new(), touching: false }
    }

    /// Force on the head, N, after `dt`; the head where it lands is at `head` (m) and moves at `head_speed`.
    pub fn step(&mut self, head: f64, head_speed: f64, dt: f64) -> f64 {
        let depth = (self.position - head).max(0.0);
        let met = self.speed - head_speed;
        let force = (self.stiffness * depth * (1.0 + GIVE * met / self.foot.speed)).max(0.0);
        self.speed += dt / self.foot.mass * (self.foot.push - force);
        self.position += dt * self.speed;
        self.time += dt;
        if force > 0.0 {
            if !self.touching {
                self.touches.push(Touch { from_s: self.time - dt, to_s: self.time, speed: met });
            }
            if let Some(touch) = self.touches.last_mut() {
                touch.to_s = self.time;
            }
        }
        self.touching = force > 0.0;
        force
    }
}
