<script lang="ts">
  // One strike in detail, for those who look for the cause.
  import { csvOf, labelsOf, levelCsvOf, soundOf } from '../api/client';
  import { hertz, seconds, within } from '../shell/figures';
  import DecayCurve from './DecayCurve.svelte';
  import { DYNAMIC, looking } from './look.svelte';
  import QualityBar from './QualityBar.svelte';
  import Waterfall from './Waterfall.svelte';
  import Modal from '../shell/Modal.svelte';
  import { dialogs } from '../shell/dialogs.svelte';

  const look = $derived(looking.look);
  const strike = $derived(looking.strike);
  const count = $derived(looking.take?.strikes.length ?? 0);

  /** Why paces are missing, each reason once. */
  const reasons = $derived.by(() => {
    const of: Record<string, string[]> = {};
    for (const { hz, reason } of look?.paces ?? []) if (reason != null) (of[reason] ??= []).push(String(Math.round(hz)));
    return Object.entries(of).map(([reason, hz]) => ({ reason, which: `${hz.join(', ')} Hz` }));
  });

  function pressed(event: KeyboardEvent) {
    const step = { ArrowRight: 1, PageDown: 1, ArrowLeft: -1, PageUp: -1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    void looking.go(looking.at + step);
  }
</script>

<!-- Pedals go through the strikes. -->
<Modal
  open={dialogs.open === 'look'}
  titleId="look-title"
  width="w-[min(96vw,72rem)] max-w-none"
  onkeydown={pressed}
  onclose={() => dialogs.close('look')}
>
  {#if look && strike && looking.take}
    <div class="mb-2 flex flex-wrap items-center gap-3">
      <h2 id="look-title" class="grow text-2xl">
        Strike {looking.at + 1} of {count}{strike.dynamic ? `, ${within(DYNAMIC[strike.dynamic])}` : ''}
      </h2>
      <button class="btn btn-sm" disabled={looking.at === 0} onclick={() => void looking.go(looking.at - 1)}>Before <kbd>←</kbd></button>
      <button class="btn btn-sm" disabled={looking.at >= count - 1} onclick={() => void looking.go(looking.at + 1)}
        >Next <kbd>→</kbd></button
      >
      <form method="dialog"><button class="btn btn-sm">Close <kbd>Esc</kbd></button></form>
    </div>
    <QualityBar quality={strike.quality} />
    {#each [...look.sentences, ...strike.noted] as sentence (sentence)}<p class="mt-1 text-lg leading-snug">{sentence}</p>{/each}
    <div class="mt-3 grid grid-cols-1 gap-4 lg:grid-cols-2">
      <section class="min-w-0" aria-labelledby="look-level">
        <h3 id="look-level" class="mb-1 text-lg">Decay curve</h3>
        <DecayCurve {look} others={looking.others} />
      </section>
      <section class="min-w-0" aria-labelledby="look-waterfall">
        <h3 id="look-waterfall" class="mb-1 text-lg">Waterfall</h3>
        <Waterfall waterfall={look.waterfall} />
      </section>
      <section class="min-w-0" aria-labelledby="look-paces">
        <h3 id="look-paces" class="text-lg">Partials, early and late</h3>
        <p class="soft text-sm">Time to fall 60 dB, and the same at the pace of the first 14 dB and of what follows.</p>
        <div class="overflow-x-auto">
          <table class="table-sm table">
            <thead>
              <tr><th scope="col">Partial</th><th scope="col">falls in</th><th scope="col">early</th><th scope="col">late</th></tr>
            </thead>
            <tbody>
              {#each look.paces as pace (pace.hz)}
                <tr>
                  <th scope="row" class="font-normal">{hertz(pace.hz)}</th>
                  <td>{seconds(pace.t60_s)}</td><td>{seconds(pace.early_t60_s)}</td><td>{seconds(pace.late_t60_s)}</td>
                </tr>
              {:else}
                <tr><td colspan="4">No partial was found in this strike.</td></tr>
              {/each}
            </tbody>
          </table>
        </div>
        {#each reasons as { reason, which } (reason)}<p class="soft text-sm">{which}: {within(reason)}</p>{/each}
      </section>
      <section class="min-w-0" aria-labelledby="look-octaves">
        <h3 id="look-octaves" class="text-lg">By octave</h3>
        <p class="soft text-sm">Decay times as ISO 3382 evaluates them, bands of IEC 61260.</p>
        <div class="overflow-x-auto">
          <table class="table-sm table">
            <thead>
              <tr><th scope="col">Octave</th><th scope="col">first 10 dB</th><th scope="col">T20</th><th scope="col">T30</th></tr>
            </thead>
            <tbody>
              {#each look.octaves as octave (octave.hz)}
                <tr>
                  <th scope="row" class="font-normal">{hertz(octave.hz)}</th>
                  {#if octave.edt_s == null && octave.t20_s == null && octave.t30_s == null}
                    <td colspan="3" class="soft text-sm">{octave.reason ?? ''}</td>
                  {:else}
                    <td>{seconds(octave.edt_s)}</td><td>{seconds(octave.t20_s)}</td><td>{seconds(octave.t30_s)}</td>
                  {/if}
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
      </section>
    </div>
    <p class="mt-4 flex flex-wrap gap-2">
      <a class="btn btn-sm" href={soundOf(strike.id)} download="strike-{strike.id}.flac">Its sound (FLAC)</a>
      <a class="btn btn-sm" href={levelCsvOf(strike.id)} download>Its level (CSV)</a>
      <a class="btn btn-sm" href={csvOf(looking.take.id, 'strikes')} download>All strikes of the take (CSV)</a>
      <a class="btn btn-sm" href={csvOf(looking.take.id, 'partials')} download>All partials of the take (CSV)</a>
      <a class="btn btn-sm" href={labelsOf(looking.take.id)} download>Times of all strikes (labels for an audio editor)</a>
    </p>
  {/if}
</Modal>
