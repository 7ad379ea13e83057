<script lang="ts">
  // The head that is on: what it is, how it has worn, what another one would do.
  import { api } from '../api/client';
  import type { HeadState, Range, Tuning } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { when, said } from '../shell/figures';
  import { signed } from './say';
  import { tune } from './tune.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  let known = $state.raw<HeadState>();
  let asked = 0;

  $effect(() => {
    const { drum, side } = tuning;
    const mine = ++asked;
    void server.attempt(async () => {
      const answer = await api.head(drum.id, side);
      if (mine === asked) known = answer;
    });
  });

  /** A factor on a decay time as a change: "−30 %". */
  const change = (factor: number) => {
    const percent = Math.round(100 * (factor - 1));
    return percent === 0 ? said('alike') : `${percent > 0 ? '+' : '−'}${Math.abs(percent)} %`;
  };
  const bounds = ({ low, high }: Range) => `${change(low)} to ${change(high)}`;

  async function played(hours: number) {
    const { drum, side } = tuning;
    const worn = tuning.head;
    if (!worn) return;
    const { id, ...now } = drum;
    const next = { ...worn, played_h: Math.round(10 * (worn.played_h + hours)) / 10 };
    await server.attempt(async () => {
      await api.changeDrum(id, side === 'batter' ? { ...now, batter: next } : { ...now, lower: next });
      notices.add(`Played for ${next.played_h} hours.`, () => api.changeDrum(id, now));
      await workbench.refresh();
      await tune.load();
    });
  }
</script>

<section class="bg-base-200 rounded-box min-w-0 p-4 lg:col-span-2" aria-labelledby="head-title">
  <h3 id="head-title" class="mb-2 text-xl">The head that is on</h3>
  {#if known?.head}
    <div class="flex flex-wrap items-center gap-x-5 gap-y-2 text-lg">
      <p>
        <strong class="display">{known.words}</strong>{#if known.since}, on since {when(known.since)}{/if}
      </p>
      <p class="flex items-center gap-2">
        played {known.head.played_h} h
        <button class="btn btn-sm btn-outline no-print" onclick={() => void played(1)}>+1 h</button>
        <button class="btn btn-sm btn-outline no-print" onclick={() => void played(3)}>+3 h</button>
      </p>
    </div>
    {#if known.drift}<p class="mt-1">{known.drift.sentence}</p>{/if}
    {#if known.options.length > 0}
      <details class="print-open mt-3">
        <summary class="text-lg">What another head would do in its place</summary>
        <!-- What scrolls must be reachable by keyboard. -->
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div class="overflow-x-auto" role="region" aria-label="What another head would do" tabindex="0">
          <table class="table">
            <thead>
              <tr><th>Head</th><th>Ring lasts</th><th>Body lasts</th><th>Pitch at the lugs, same tension</th><th>Pitch of the body</th></tr>
            </thead>
            <tbody>
              {#each known.options as option (option.words + option.head.played_h)}
                {@const { effect } = option}
                <tr>
                  <th scope="row" class="min-w-36"
                    >{option.words}{known.head.played_h > 0 && option.words === known.words ? ', new' : ''}</th
                  >
                  <td class="whitespace-nowrap"
                    ><strong>{change(effect.ring_factor)}</strong> <span class="soft">({bounds(effect.ring_range)})</span></td
                  >
                  <td class="whitespace-nowrap"
                    ><strong>{change(effect.body_factor)}</strong> <span class="soft">({bounds(effect.body_range)})</span></td
                  >
                  <td class="whitespace-nowrap">{signed(effect.lug_cents)} cents</td>
                  <td class="whitespace-nowrap">{signed(effect.body_cents)} cents</td>
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
        <p class="soft mt-1 text-sm">
          In brackets where it lies nine times in ten. {known.learned_from === 0
            ? 'From experience with heads at large; every change of heads that is measured before and after makes it surer.'
            : known.learned_from === 1
              ? 'Learned from one change of heads in this kit.'
              : `Learned from ${known.learned_from} changes of heads in this kit.`}
        </p>
      </details>
    {/if}
  {:else if known}
    <p class="soft text-lg">This head is off.</p>
  {:else}
    <div class="bg-base-300 rounded-box h-16"></div>
  {/if}
</section>
