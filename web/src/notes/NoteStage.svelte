<script lang="ts">
  // Full screen while notes are trained, for someone at the drum with a beater in one hand and the other on the head.
  import NotListening from '../listening/NotListening.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { counted, seconds, fixed, said } from '../shell/figures';
  import { NOTES } from '../tonight/say';
  import { lengthOf, rulerEnd } from './lengths';
  import { TOO_SOFT, trainer } from './trainer.svelte';
  import Stage from '../shell/Stage.svelte';

  const QUIETEST = -70;
  /** Notes that are shown: the newest, above. */
  const SHOWN = 8;

  const name = $derived(drumKit.drum?.drum.name ?? 'drum');
  const written = $derived(lengthOf(trainer.value, trainer.bpm));
  const tolerance = $derived(trainer.all?.tolerance_s ?? 0);
  const shown = $derived(
    trainer.played
      .map((note, i) => ({ note, number: i + 1 }))
      .slice(-SHOWN)
      .reverse(),
  );
  const end = $derived(
    rulerEnd(
      written,
      shown.map(({ note }) => note.sounded_s),
    ),
  );
  const at = (time: number) => `${(100 * Math.min(time, end)) / end}%`;
  const level = $derived(`${100 * Math.max(0, Math.min(1, 1 - trainer.levelDbfs / QUIETEST))}%`);
  const last = $derived(trainer.played.at(-1));
  const asks = $derived.by(() => {
    if (trainer.stage === 'opening')
      return trainer.hearing === 'microphone' ? 'Allow the microphone …' : 'The simulated player sits down …';
    if (trainer.stage === 'ending') return 'Stopping …';
    if (trainer.tooSoft) return TOO_SOFT;
    if (last) return last.sentence;
    if (trainer.stage === 'over') return 'No note was heard.';
    return trainer.hearing === 'simulated' ? `The simulated ${name} plays.` : 'Strike, and damp it when the note is over.';
  });
</script>

{#if trainer.open}
  <Stage titleId="notes-stage-title">
    {#if trainer.stage === 'failed' || trainer.stage === 'busy'}
      <NotListening
        titleId="notes-stage-title"
        busy={trainer.stage === 'busy'}
        problem={trainer.problem}
        again="Try again"
        back="Back to the bench"
        onagain={() => trainer.again(trainer.stage === 'busy')}
        onclose={() => trainer.close()}
      >
        {#if trainer.all}<p class="mb-8 text-xl">
            Until then: {counted(trainer.all.notes, 'note', 'notes')}, {trainer.all.as_written} as written.
          </p>{/if}
      </NotListening>
    {:else}
      <div class="flex flex-wrap items-start gap-x-4 gap-y-2">
        <h2 id="notes-stage-title" class="min-h-[2.2em] grow basis-80 text-3xl leading-tight sm:text-5xl">{asks}</h2>
        <div class="flex flex-wrap gap-2">
          {#if trainer.stage === 'over'}
            <button class="btn btn-primary btn-lg" onclick={() => trainer.again()}>Once more</button>
            <button class="btn btn-lg" onclick={() => trainer.close()}>Back to the bench <kbd>Esc</kbd></button>
          {:else}
            <button class="btn btn-lg" onclick={() => trainer.stop()}>Stop <kbd>Esc</kbd></button>
          {/if}
        </div>
      </div>
      <p class="mb-4 text-xl sm:text-2xl" style="color: var(--bed-text)">
        Written: {NOTES[trainer.value]}, {trainer.bpm} quarter notes a minute: {seconds(written)}
      </p>
      <div class="relative grow pt-8" style="min-height: 17rem">
        <!-- Within the pale band a note is as written. -->
        <div
          class="absolute inset-y-0 opacity-20"
          style="left: {at(written - tolerance)}; width: calc({at(written + tolerance)} - {at(
            written - tolerance,
          )}); background: var(--chalk)"
        ></div>
        <ol class="relative grid gap-3" aria-label="Notes played, the newest first">
          {#each shown as { note, number } (number)}
            <li>
              <p class="flex gap-x-3 text-lg sm:text-xl {number === trainer.played.length ? 'font-semibold' : ''}">
                <span class="w-16">{seconds(note.sounded_s)}</span>
                <span
                  >{note.verdict === 'as_written'
                    ? '✓ as written'
                    : `${fixed(Math.abs(note.off_s), 2)} s too ${note.verdict === 'too_long' ? said('long') : said('short')}`}</span
                >
              </p>
              <div
                class="h-3 rounded-r sm:h-4"
                style="width: {at(
                  note.sounded_s,
                )}; background: linear-gradient(to right, var(--ember-1), var(--ember-3) 55%, var(--ember-5))"
              ></div>
            </li>
          {/each}
        </ol>
        <div class="absolute inset-y-0 border-l-2" style="left: {at(written)}; border-color: var(--chalk)">
          <p class="absolute left-2 text-lg whitespace-nowrap">written</p>
        </div>
      </div>
      <div class="min-h-16 pt-3 text-xl sm:text-2xl" role="status">
        {#if trainer.all}
          {counted(trainer.all.notes, 'note', 'notes')}, {trainer.all.as_written} as written. {trainer.all.sentence ?? ''}
        {:else}
          A note counts as over once it lies 30 dB under its own level. Within the pale band it is as written.
        {/if}
      </div>
      {#each trainer.warnings as warning (warning)}<p class="mt-2 text-xl" style="color: var(--ember-1)">{warning}</p>{/each}
      <div class="relative mt-2 h-5 shrink-0 overflow-hidden rounded" style="background: var(--ember-6)" aria-hidden="true">
        <div
          class="h-full"
          style="width: {level}; background: linear-gradient(to right, var(--ember-5), var(--ember-3) 60vw, var(--ember-1) 90vw)"
        ></div>
      </div>
    {/if}
  </Stage>
{/if}
