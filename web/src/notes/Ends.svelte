<script lang="ts">
  // How hand and knee end the written note, and how fast a roll holds it.
  import { api, Refusal } from '../api/client';
  import type { NoteEnds } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { server } from '../shell/server.svelte';
  import { seconds, fixed } from '../shell/figures';
  import { trainer } from './trainer.svelte';

  type Kind = NoteEnds['stops'][number]['kind'];
  const NAMES: Record<Kind, string> = {
    fingertips: 'Fingertips',
    flat_hand: 'Flat hand',
    hand_and_knee: 'Hand and knee',
  };

  let ends = $state.raw<NoteEnds>();
  let asked = 0;

  $effect(() => {
    const [drum, value, bpm] = [drumKit.drumId, trainer.value, trainer.bpm];
    void workbench.bench;
    const mine = ++asked;
    if (drum === undefined || !trainer.possible) return;
    void server.attempt(async () => {
      try {
        const found = await api.noteEnds(drum, value, bpm);
        if (mine === asked) ends = found;
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        // Not measured yet: the bench says so.
        if (mine === asked) ends = undefined;
      }
    });
  });
</script>

{#if ends}
  <div class="border-base-300 mt-4 grid gap-3 border-t pt-3">
    <div>
      <h4 class="text-lg">To end it at {seconds(ends.written_s)}</h4>
      {#if ends.stops.every((stop) => stop.needless)}
        <p>It is over by itself before that: nothing has to stop it.</p>
      {:else}
        <ul>
          {#each ends.stops as stop (stop.kind)}
            <li>
              <strong>{NAMES[stop.kind]}</strong>:
              {#if stop.down}down {seconds(stop.down.at_s)} after the stroke ({seconds(Math.max(0, stop.down.low))} to {seconds(
                  stop.down.high,
                )}){:else}too weak: at once, and still over only after {seconds(stop.over_in_s)} ({seconds(stop.low)} to {seconds(
                  stop.high,
                )}){/if}
            </li>
          {/each}
        </ul>
      {/if}
    </div>
    {#if ends.roll}
      <div>
        <h4 class="text-lg">To hold it longer than it rings: a roll</h4>
        <p>
          {#if ends.roll.any}Any even roll holds it: both hands together {fixed(ends.roll.strokes, 0)} strokes a second are enough.{:else}Both
            hands together {fixed(ends.roll.strokes, 1)} strokes a second ({fixed(ends.roll.low, 1)} to {fixed(ends.roll.high, 1)}), so that
            it sways by no more than {fixed(ends.roll.sway_db, 0)} dB.{/if}
          {#if !ends.roll.playable}That is faster than hands roll evenly: as it is, the drum rings too short to be held.{/if}
          Soft beaters, one on either side of the middle, as far from it; end it with hand and knee.
        </p>
      </div>
    {/if}
    <p class="soft text-sm">
      Expected from the drum as you measured it; bounds hold nine times in ten. How firmly hands press is from experience. If hand, wrist or
      knee hurts, stop and have it looked at.
    </p>
  </div>
{/if}
