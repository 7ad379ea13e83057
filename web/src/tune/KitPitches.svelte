<script lang="ts">
  // Toms in intervals, clear of the snare, and the kick against the bass.
  import { fixed, said } from '../shell/figures';
  import { api, Refusal } from '../api/client';
  import type { KitPitches, TomIntervals } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { listening } from '../listening/listen.svelte';
  import { bass } from './bass.svelte';
  import { signed, turns } from './say';
  import { tune } from './tune.svelte';

  const INTERVALS: { value: TomIntervals; word: string }[] = [
    { value: 'seconds', word: 'Seconds' },
    { value: 'minor_thirds', word: 'Minor thirds' },
    { value: 'major_thirds', word: 'Major thirds' },
    { value: 'fourths', word: 'Fourths' },
    { value: 'fifths', word: 'Fifths' },
    { value: 'major_chord', word: 'A major chord' },
    { value: 'minor_chord', word: 'A minor chord' },
  ];
  let intervals = $state<TomIntervals>('fourths');
  let written = $state('');
  let pitches = $state.raw<KitPitches>();
  let refused = $state('');
  let asked = 0;

  async function load() {
    const mine = ++asked;
    await server.attempt(async () => {
      try {
        const answer = await api.kitPitches(intervals, written);
        if (mine !== asked) return;
        pitches = answer;
        refused = '';
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (mine === asked) refused = error.message;
      }
    });
  }

  $effect(() => {
    void intervals;
    void load();
  });

  function rods(eighths: number | null | undefined, id: number): string {
    if (drumKit.hasOneBolt(id)) return 'the bolt by half turns, and tap in between';
    if (eighths == null) return 'tap its batter to hear how far';
    const whole = Math.round(eighths);
    return whole === 0 ? 'nothing' : `every rod about ${turns(whole)} ${whole > 0 ? said('up') : said('down')}, both heads`;
  }

  $effect(() => () => bass.close());

  // What was heard is written down as if it had been typed, so that it can be mended.
  $effect(() => {
    if (bass.names.length === 0) return;
    written = bass.names.join(', ');
    if (!bass.listening) void load();
  });

  async function wish(drum: number, hz: number) {
    await workbench.choose(drum);
    tune.part = 'head';
    await tune.choose('batter');
    await tune.setWanted(hz);
  }
</script>

<div class="grid grid-cols-[minmax(0,1fr)] gap-4 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
  <section class="bg-base-200 rounded-box min-w-0 p-4" aria-labelledby="toms-title">
    <div class="mb-2 flex flex-wrap items-center gap-4">
      <h3 id="toms-title" class="text-xl">Toms</h3>
      <label class="flex items-center gap-2"
        >in
        <select class="select w-44" bind:value={intervals}>
          {#each INTERVALS as { value, word } (value)}<option {value}>{word}</option>{/each}
        </select>
      </label>
    </div>
    {#if !pitches}
      <div class="bg-base-300 h-24 rounded-box"></div>
    {:else if pitches.toms.length === 0}
      <p class="soft text-lg">No tom’s pitch is known yet. Measure one on the bench, or tap both of its heads.</p>
    {:else}
      <ul class="grid gap-2">
        {#each pitches.toms as tom (tom.drum_id)}
          <li class="border-base-300 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b py-2">
            <span class="display text-xl">{tom.name}</span>
            <span class="text-lg"
              >{fixed(tom.pitch.now_hz, 0)} Hz ({tom.pitch.now_note.name}, ±{Math.round(1.645 * tom.sd_cents)} cents) →
              <strong>{fixed(tom.pitch.wanted_hz, 0)} Hz</strong> ({tom.pitch.wanted_note.name}
              {signed(tom.pitch.wanted_note.cents)})</span
            >
            <span class="soft whitespace-nowrap">{signed(tom.pitch.change_cents)} cents</span>
            <span class="w-full sm:w-auto">{rods(tom.eighths, tom.drum_id)}</span>
            {#if tom.batter_lug_hz != null && Math.abs(tom.pitch.change_cents) > 10}
              <button class="btn btn-sm btn-outline no-print ml-auto" onclick={() => void wish(tom.drum_id, tom.batter_lug_hz ?? 0)}
                >Tune it so</button
              >
            {/if}
            {#if tom.pitch.answers_snare}<p class="text-warning w-full">
                So near to the snare’s pitch that the two answer each other.
              </p>{/if}
          </li>
        {/each}
      </ul>
      <p class="soft mt-2 text-sm">
        The chord lies where the toms move least{pitches.snare_hz
          ? ` and keep clear of the snare at ${fixed(pitches.snare_hz, 0)} Hz`
          : ''}. Pitch is that of the whole drum; bring both heads along by the same interval.
      </p>
    {/if}
    {#if pitches && pitches.unknown.length > 0}
      <p class="soft mt-2">Pitch not known yet: {pitches.unknown.join(', ')}.</p>
    {/if}
  </section>
  <section class="bg-base-200 rounded-box min-w-0 p-4" aria-labelledby="bass-title">
    <h3 id="bass-title" class="mb-2 text-xl">Kick against bass</h3>
    <form
      class="flex flex-wrap items-end gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        void load();
      }}
    >
      <label class="grid grow gap-1">
        <span class="soft">The song’s key, or the bass’s lowest notes</span>
        <input
          class="input w-full"
          bind:value={written}
          placeholder="A minor, or E1, A1, D2"
          autocomplete="off"
          aria-invalid={refused !== ''}
        />
      </label>
      <button class="btn btn-outline">Hold against it</button>
    </form>
    <div class="no-print mt-2 flex flex-wrap items-center gap-3">
      {#if bass.listening}
        <button class="btn btn-primary" onclick={() => bass.stop()}>Enough heard</button>
        <p class="text-lg" aria-live="polite">
          {bass.names.length > 0 ? `Heard: ${bass.names.join(', ')}` : 'Play the lowest notes of the song, one at a time …'}
        </p>
      {:else}
        <button class="btn btn-ghost" onclick={() => bass.begin(listening.hearing)}
          >Listen to the bass{listening.hearing === 'simulated' ? ' (simulated)' : ''}</button
        >
        {#if bass.problem}<p role="alert">{bass.problem}</p>{/if}
      {/if}
    </div>
    {#if refused}<p class="text-error mt-2" role="alert">{refused}</p>{/if}
    {#if pitches?.kick}
      <p class="mt-3 text-xl {pitches.kick.clashes ? 'text-warning' : ''}">{pitches.kick.sentence}</p>
      <dl class="mt-2 grid grid-cols-[auto_1fr] gap-x-4 text-lg">
        <dt class="soft">Kick</dt>
        <dd>
          {fixed(pitches.kick.kick_hz, 1)} Hz, {pitches.kick.kick_note.name}
          {signed(pitches.kick.kick_note.cents)} cents{#if pitches.kick_sd_cents != null}
            <span class="soft ml-1">±{Math.round(1.645 * pitches.kick_sd_cents)}</span>{/if}
        </dd>
        <dt class="soft">Nearest bass note</dt>
        <dd>{pitches.kick.nearest_note}; the kick lies {signed(pitches.kick.nearest_cents)} cents from it</dd>
      </dl>
    {:else if written.trim() !== '' && !refused && pitches}
      <p class="soft mt-3">The kick’s pitch is not known yet: measure it on the bench.</p>
    {/if}
    {#each pitches?.room_notes ?? [] as note (note)}<p class="text-warning mt-3 text-lg">{note}</p>{/each}
  </section>
</div>
