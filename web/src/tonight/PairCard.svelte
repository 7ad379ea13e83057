<script lang="ts">
  // Two microphones on one drum: what to do, and beneath it the figures that say so.
  import type { Fix, MicrophonePair } from '../api/types';
  import { decibels, fixed, percent } from '../shell/figures';

  let { pair }: { pair: MicrophonePair } = $props();

  type Sum = MicrophonePair['sums'][number];
  const gains: Record<Fix, (sum: Sum) => number> = {
    leave: (sum) => sum.as_is_db,
    flip: (sum) => sum.flipped_db,
    delay: (sum) => sum.delayed_db,
    flip_and_delay: (sum) => sum.flipped_and_delayed_db,
  };
  /** Bars go from 12 dB lost to 3 gained. */
  const LEAST = -12;
  const MOST = 3;
  const at = (db: number) => (100 * (Math.min(Math.max(db, LEAST), MOST) - LEAST)) / (MOST - LEAST);
  const fixes = $derived(pair.fix !== 'leave');
</script>

<li class="bg-base-200 rounded-box p-3">
  <p class="soft">{pair.channels[0]} {pair.names[0]} · {pair.channels[1]} {pair.names[1]}</p>
  <p class="display mt-1 text-lg leading-snug">{pair.sentence}</p>
  {#if pair.later_s != null && pair.farther_m != null}
    <dl class="mt-2 grid grid-cols-[auto_1fr] gap-x-4">
      <dt class="soft">Polarity</dt>
      <dd>{pair.polarity === 'same' ? 'both move the same way' : 'they move against each other'}</dd>
      <dt class="soft">Path</dt>
      <dd>
        {#if pair.later_s >= 0}{pair.names[1]} hears it {fixed(1000 * pair.later_s, 2)} ms later: {fixed(100 * pair.farther_m, 0)} cm further.
        {:else}{pair.names[1]} hears it {fixed(-1000 * pair.later_s, 2)} ms sooner: {fixed(-100 * pair.farther_m, 0)} cm nearer.{/if}
      </dd>
      <dt class="soft">Alike</dt>
      <dd>{percent(pair.likeness)}. The less alike, the more in doubt the rest.</dd>
    </dl>
    <details class="mt-2">
      <summary>What their sum gains, by octave</summary>
      <table class="mt-1 w-full">
        <thead class="sr-only"
          ><tr
            ><th scope="col">Octave</th><th scope="col">As it is</th>{#if fixes}<th scope="col">Then</th>{/if}</tr
          ></thead
        >
        <tbody>
          {#each pair.sums as sum (sum.hz)}
            <tr class={sum.level_db < -20 ? 'soft' : ''}>
              <th scope="row" class="w-20 text-left font-normal whitespace-nowrap">{fixed(sum.hz, 0)} Hz</th>
              <td class="w-24 whitespace-nowrap">{decibels(sum.as_is_db)}</td>
              {#if fixes}<td class="w-24 whitespace-nowrap">→ {decibels(gains[pair.fix](sum))}</td>{/if}
              <td aria-hidden="true">
                <div class="bg-base-300 relative h-2">
                  <div class="absolute inset-y-0 left-0 bg-(--ember-4)" style="width: {at(sum.as_is_db)}%"></div>
                  {#if fixes}<div
                      class="bg-base-content absolute inset-y-[-3px] w-0.5"
                      style="left: {at(gains[pair.fix](sum))}%"
                    ></div>{/if}
                </div>
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="soft mt-1 text-sm">
        Against two unlike sounds as loud: 3 dB where both are alike, less where they cancel. Faint octaves are grey. {#if fixes}The mark is
          what you get then.{/if}
      </p>
    </details>
  {/if}
</li>
