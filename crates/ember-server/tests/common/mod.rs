//! A server in memory with one tom, and sounds to send to it.
#![allow(dead_code, reason = "not every test needs every part")]

pub mod recordings;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use ember_app::sound::kept_sound;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::DeviceKind;
use ember_core::decay::{Listener, StrikeMeasurement};
use ember_core::drum::DrumKind;
use ember_core::plan::ShelfItem;
use ember_server::api::router;
use ember_server::state::AppState;
use ember_store::Store;
use http_body_util::BodyExt;
use serde_json::Value;
use std::io::{BufRead, BufReader, Cursor, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::sync::LazyLock;
use tower::ServiceExt;

/// The tom's number.
pub const TOM: i64 = 1;

/// A drum as the page sends it.
pub const DRUM: &str =
    r#"{"name":"Side tom","kind":"tom","diameter_in":12,"depth_in":8,"lugs":6,"batter":{"film_mil":10},"lower":{"film_mil":10}}"#;

pub fn state() -> AppState {
    let mut store = Store::in_memory().unwrap();
    store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap();
    for device in DeviceKind::ALL {
        store.set_shelf_item(ShelfItem::new(device, 4)).unwrap();
    }
    AppState::of(store)
}

pub struct Answer {
    pub status: StatusCode,
    pub headers: axum::http::HeaderMap,
    pub bytes: Vec<u8>,
}

impl Answer {
    pub fn json(&self) -> Value {
        serde_json::from_slice(&self.bytes).unwrap_or(Value::Null)
    }

    /// The sentence of a problem+json answer; anything else fails.
    pub fn sentence(&self) -> String {
        assert_eq!(self.headers["content-type"], "application/problem+json", "{}", String::from_utf8_lossy(&self.bytes));
        let json = self.json();
        assert_eq!(json["status"], self.status.as_u16());
        let sentence = json["detail"].as_str().unwrap().to_string();
        assert!(sentence.ends_with(['.', '?']) && sentence.len() > 15, "no sentence: {sentence}");
        sentence
    }
}

pub async fn send(app: &Router, method: &str, path: &str, body: Body, headers: &[(&str, &str)]) -> Answer {
    let mut request = Request::builder().method(method).uri(path).header("host", "127.0.0.1:5480");
    for (name, value) in headers {
        request = request.header(*name, *value);
    }
    let response = app.clone().oneshot(request.body(body).unwrap()).await.unwrap();
    let (status, headers) = (response.status(), response.headers().clone());
    Answer { status, headers, bytes: response.into_body().collect().await.unwrap().to_bytes().to_vec() }
}

pub async fn get(app: &Router, path: &str) -> Answer {
    send(app, "GET", path, Body::empty(), &[]).await
}

pub async fn json(app: &Router, method: &str, path: &str, body: Value) -> Answer {
    send(app, method, path, Body::from(body.to_string()), &[("content-type", "application/json")]).await
}

pub async fn upload(app: &Router, name: &str, bytes: impl Into<Body>) -> Answer {
    upload_to(app, TOM, name, bytes).await
}

pub async fn upload_to(app: &Router, drum: i64, name: &str, bytes: impl Into<Body>) -> Answer {
    send(app, "POST", &format!("/api/v1/drums/{drum}/takes/file?name={name}"), bytes.into(), &[]).await
}

pub fn app() -> Router {
    router(state())
}

/// Two strikes on the simulated tom, 48 kHz.
pub fn strikes() -> &'static [f32] {
    static STRIKES: LazyLock<Vec<f32>> = LazyLock::new(|| BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap().play(2, 11));
    &STRIKES
}

/// The same strikes measured, with their kept sound and where they are hit.
pub fn measured_strikes() -> Vec<(StrikeMeasurement, Vec<u8>, usize)> {
    let mut listener = Listener::new(48_000.0);
    let mut heard = listener.push(strikes());
    heard.extend(listener.finish());
    heard
        .into_iter()
        .map(|strike| (strike.measurement, kept_sound(&strike.captured.samples, 48_000).unwrap(), strike.captured.onset_index))
        .collect()
}

/// 32-bit float WAV; `channels` each get their own part of `frames` in turn.
pub fn wav(frames: &[f32], channels: u16, rate: u32) -> Vec<u8> {
    let spec = hound::WavSpec { channels, sample_rate: rate, bits_per_sample: 32, sample_format: hound::SampleFormat::Float };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = hound::WavWriter::new(&mut bytes, spec).unwrap();
    frames.iter().for_each(|x| writer.write_sample(*x).unwrap());
    writer.finalize().unwrap();
    bytes.into_inner()
}

/// Something like talk: a pulse train through two resonances, in syllables that swell and fade.
pub fn speech(rate: u32, seconds: f64) -> Vec<f32> {
    let (mut low, mut high) = ([0f64; 2], [0f64; 2]);
    let ring = |state: &mut [f64; 2], input: f64, hz: f64, width: f64| {
        let r = (-std::f64::consts::PI * width / f64::from(rate)).exp();
        let out = input + 2.0 * r * (2.0 * std::f64::consts::PI * hz / f64::from(rate)).cos() * state[0] - r * r * state[1];
        *state = [out, state[0]];
        out
    };
    let mut phase = 0.0;
    (0..(seconds * f64::from(rate)) as usize)
        .map(|n| {
            let t = n as f64 / f64::from(rate);
            phase += (115.0 + 20.0 * (2.1 * t).sin()) / f64::from(rate);
            let pulse = if phase >= 1.0 { 1.0 } else { 0.0 };
            phase -= phase.floor();
            let syllable = (2.0 * std::f64::consts::PI * 2.7 * t).sin().max(0.0).powi(2);
            let sound = ring(&mut low, pulse, 620.0, 90.0) + 0.6 * ring(&mut high, pulse, 1250.0, 120.0);
            // A little hiss: no room is digitally silent.
            (0.02 * syllable * sound + 1e-4 * ((n * 7919) % 1000) as f64 / 1000.0) as f32
        })
        .collect()
}

/// The running program; killed when the test is over.
pub struct Running {
    child: Child,
    /// 127.0.0.1 and the port.
    pub address: String,
}

impl Running {
    pub fn start(arguments: &[&str]) -> Self {
        let mut child =
            Command::new(env!("CARGO_BIN_EXE_soft-ember")).args(arguments).stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.split("http://").nth(1).and_then(|rest| rest.split_whitespace().next()).unwrap_or_default().to_string();
        assert!(address.starts_with("127.0.0.1:"), "it said: {line}");
        Self { child, address }
    }

    /// Status and body of the answer to GET `path`.
    pub fn get(&self, path: &str) -> (u16, String) {
        self.ask(&format!("GET {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", self.address))
    }

    pub fn post(&self, path: &str, json: &str) -> (u16, String) {
        let length = json.len();
        self.ask(&format!(
            "POST {path} HTTP/1.1\r\nHost: {}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\nConnection: close\r\n\r\n{json}",
            self.address
        ))
    }

    fn ask(&self, request: &str) -> (u16, String) {
        let mut stream = TcpStream::connect(&self.address).unwrap();
        stream.write_all(request.as_bytes()).unwrap();
        let mut answer = String::new();
        stream.read_to_string(&mut answer).unwrap();
        let status = answer.split_whitespace().nth(1).unwrap().parse().unwrap();
        (status, answer.split_once("\r\n\r\n").unwrap().1.to_string())
    }

    /// Asks it to stop as the system does, and waits. Returns whether it ended in peace.
    pub fn stop(mut self) -> bool {
        let asked = Command::new("kill").arg(self.child.id().to_string()).status().unwrap();
        assert!(asked.success());
        self.child.wait().unwrap().success()
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        // Already gone is as good.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
