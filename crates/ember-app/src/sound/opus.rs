//! Opus (RFC 6716), what many phones and browsers record: Ogg, WebM and CAF hand over its packets, a decoder in pure Rust makes samples of them.

use opus_decoder::OpusDecoder;
use std::panic::{AssertUnwindSafe, catch_unwind};
use symphonia::core::audio::{AsGenericAudioBufferRef, AudioBuffer, AudioMut, AudioSpec, Channels, GenericAudioBufferRef, layouts};
use symphonia::core::codecs::CodecInfo;
use symphonia::core::codecs::audio::well_known::CODEC_ID_OPUS;
use symphonia::core::codecs::audio::{AudioCodecParameters, AudioDecoder, AudioDecoderOptions, FinalizeResult};
use symphonia::core::codecs::registry::{RegisterableAudioDecoder, SupportedAudioCodec};
use symphonia::core::errors::{Result, decode_error, unsupported_error};
use symphonia::core::packet::PacketRef;
use symphonia::core::support_audio_codec;

/// Opus is always played at this rate, whatever was recorded (RFC 7845, section 5.1), Hz.
const RATE: u32 = 48_000;

/// Reads the packets of one Opus stream in one or two channels.
pub(super) struct Opus {
    parameters: AudioCodecParameters,
    decoder: OpusDecoder,
    interleaved: Vec<f32>,
    samples: AudioBuffer<f32>,
    channels: usize,
}

impl Opus {
    fn new(parameters: &AudioCodecParameters) -> Result<Self> {
        let channels = parameters.channels.as_ref().map_or(0, Channels::count);
        let layout = match channels {
            1 => layouts::CHANNEL_LAYOUT_MONO,
            2 => layouts::CHANNEL_LAYOUT_STEREO,
            _ => return unsupported_error("opus: one or two channels"),
        };
        let Ok(decoder) = OpusDecoder::new(RATE, channels) else { return unsupported_error("opus: this stream") };
        let longest = decoder.max_frame_size_per_channel();
        Ok(Self {
            parameters: parameters.clone(),
            decoder,
            interleaved: vec![0.0; longest * channels],
            samples: AudioBuffer::new(AudioSpec::new(RATE, layout), longest),
            channels,
        })
    }
}

impl AudioDecoder for Opus {
    fn reset(&mut self) {
        self.decoder.reset();
    }

    fn codec_info(&self) -> &CodecInfo {
        &Self::supported_codecs()[0].info
    }

    fn codec_params(&self) -> &AudioCodecParameters {
        &self.parameters
    }

    fn decode_ref(&mut self, packet: &PacketRef<'_>) -> Result<GenericAudioBufferRef<'_>> {
        self.samples.clear();
        // A packet that the decoder stumbles over is left out like one that is broken; it starts anew behind it.
        let (decoder, interleaved) = (&mut self.decoder, &mut self.interleaved);
        let decoded = catch_unwind(AssertUnwindSafe(|| decoder.decode_float(packet.data, interleaved, false)));
        let Ok(Ok(frames)) = decoded else {
            self.decoder.reset();
            return decode_error("opus: a broken packet");
        };
        self.samples.render_uninit(Some(frames));
        self.samples.copy_from_slice_interleaved(&&self.interleaved[..frames * self.channels]);
        self.samples.trim(packet.trim_start.get() as usize, packet.trim_end.get() as usize);
        Ok(self.samples.as_generic_audio_buffer_ref())
    }

    fn finalize(&mut self) -> FinalizeResult {
        FinalizeResult::default()
    }

    fn last_decoded(&self) -> GenericAudioBufferRef<'_> {
        self.samples.as_generic_audio_buffer_ref()
    }
}

impl RegisterableAudioDecoder for Opus {
    fn try_registry_new(parameters: &AudioCodecParameters, _: &AudioDecoderOptions) -> Result<Box<dyn AudioDecoder>> {
        Ok(Box::new(Self::new(parameters)?))
    }

    fn supported_codecs() -> &'static [SupportedAudioCodec] {
        &[support_audio_codec!(CODEC_ID_OPUS, "opus", "Opus")]
    }
}
