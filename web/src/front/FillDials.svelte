<script lang="ts">
  // What can be laid into a kick instead of cutting it: from hardly touching to pressed on the batter.
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { FrontPage } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { view } from '../shell/view.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { seconds } from '../shell/figures';
  import FoldRow from './FoldRow.svelte';

  let { page }: { page: FrontPage } = $props();

  /** So many are worked out. */
  const MOST_DIALS = 3;
  const now = $derived(page.profile.body_t60_s ?? 0.5);
  let chosen = $state('');
</script>

<p class="soft mb-2">
  The two things that count: how heavy it is, and how much of it presses on each head. All of it comes out again. Chalk: what was found.
</p>
{#if page.dials.length >= MOST_DIALS}
  <p class="soft mb-2">What else of the kind you own is among the plans on the bench.</p>
{/if}
{#each page.dials as dial (dial.device)}
  <section class="mb-4" aria-label={dial.name}>
    <h3 class="mb-1 text-xl first-letter:uppercase">
      {dial.name}{#if !dial.owned}<span class="soft text-base"> · not on your shelf</span>{/if}
    </h3>
    <ol class="grid gap-1">
      {#each dial.steps as { plan, found } (plan.placements[0]?.amount)}
        {@const code = `${dial.device} ${plan.placements[0]?.amount}`}
        <FoldRow
          expected={plan.expected}
          most={now}
          found={found?.body_t60_s}
          open={chosen === code}
          toggle={() => (chosen = chosen === code ? '' : code)}
        >
          {#snippet name()}{plan.devices[0]?.amount}{/snippet}
          {#snippet figure()}<span class="display text-xl">{seconds(plan.expected.profile.body_t60_s)}</span>
            {#if plan.assessment.fits}<span class="text-success block text-sm">fits tonight</span>{:else if found}<span
                class="soft block text-sm">found {seconds(found.body_t60_s)}</span
              >{/if}{/snippet}
          {#snippet more()}
            <p>
              Body {seconds(page.profile.body_t60_s)} → {seconds(plan.expected.profile.body_t60_s)}
              {#if plan.expected.body_t60_s}({seconds(plan.expected.body_t60_s.low)} to {seconds(plan.expected.body_t60_s.high)}){/if}, ring
              {seconds(plan.expected.profile.ring_t60_s)}. {plan.devices[0]?.cost}
            </p>
            {#if !plan.assessment.fits && plan.assessment.off[0]}<p>Against tonight: {plan.assessment.off[0].sentence}</p>{/if}
            <ol class="list-decimal pl-5">
              {#each plan.devices[0]?.steps ?? [] as step (step)}<li>{step}</li>{/each}
            </ol>
            <div class="no-print mt-1 flex flex-wrap gap-2">
              <button class="btn" disabled={hearing.loading} onclick={() => void hearing.open(plan)}
                ><Headphones class="size-5" aria-hidden="true" />Hear it first</button
              >
              <button
                class="btn btn-secondary"
                onclick={() => {
                  view.place = 'bench';
                  void workbench.putOn(plan);
                }}>It is in</button
              >
            </div>
          {/snippet}
        </FoldRow>
      {/each}
    </ol>
  </section>
{/each}
