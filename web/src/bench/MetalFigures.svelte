<script lang="ts">
  // A cymbal as musicians hear it, in place of body and ring.
  import type { MetalSound } from '../api/types';
  import { decibels, hertz, seconds, said } from '../shell/figures';
  import Figure from './Figure.svelte';

  let { metal }: { metal: MetalSound } = $props();

  const LEANS = { dark: said('dark'), even: said('even'), bright: said('bright') };
  const doubt = (length: MetalSound['wash']) => (length?.t60_sd_s == null ? null : 1.645 * length.t60_sd_s);
  /** By how much it leans one way. */
  const leaning = $derived.by(() => {
    const over = metal.highs_over_lows_db;
    if (over == null) return 'lows or highs were not heard';
    return `from 4 kHz up ${decibels(Math.abs(over))} ${over < 0 ? said('softer') : said('louder')} than up to 1 kHz`;
  });
  const note = (length: MetalSound['wash']) => (length ? `falls 60 dB, at ${hertz(length.hz)}` : 'not heard');
</script>

<dl class="mb-3 grid grid-cols-3 gap-2">
  <Figure name="Wash" value={seconds(metal.wash?.t60_s)} doubt={doubt(metal.wash)} note={note(metal.wash)} />
  <Figure name="Highs" value={seconds(metal.highs?.t60_s)} doubt={doubt(metal.highs)} note={note(metal.highs)} />
  <Figure name="It sounds" value={metal.brightness ? LEANS[metal.brightness] : '–'} doubt={null} note={leaning} />
</dl>
