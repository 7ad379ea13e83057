<script lang="ts">
  // Every way of closing the drum: what the body would be, the loudness in front, the beater and the microphone.
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { FrontPage, FrontWay } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { hertz, seconds } from '../shell/figures';
  import { fronts } from './front.svelte';
  import { hasPedal } from '../kit/kinds.svelte';
  import FoldRow from './FoldRow.svelte';
  import LaidIn from './LaidIn.svelte';
  import Levels from './Levels.svelte';
  import { bodyWords, FEELS, frontCode, MICROPHONES, reboundWords } from './say';

  let { page }: { page: FrontPage } = $props();

  const longest = $derived(Math.max(0.2, ...page.ways.map((way) => way.expected.body_t60_s?.high ?? way.expected.profile.body_t60_s ?? 0)));
  let chosen = $state('');
  const advised = $derived(page.advice.hole ? frontCode(page.advice.hole) : '');
  const laid = $derived(page.laid?.placements ?? []);
  const besides = $derived(page.laid ? ` and ${page.laid.words}` : '');
  /** With something laid in besides, nothing here is how the drum is now. */
  const isNow = (way: FrontWay) => way.now && !page.laid;
  const leftIn = $derived(fronts.beater === 'buried' && hasPedal(page.drum.kind));
  const meant = (way: FrontWay) => ({ placements: laid, front: way.front, expected: way.expected, title: `${way.words}${besides}` });
</script>

<p class="soft mb-2">
  Expected from the drum as you measured it{leftIn ? ', the beater coming off the head; here it is left in' : ''}, with bounds that hold
  nine times in ten. Chalk: what was found in a trial.
</p>
<LaidIn {page} />
<ul class="grid gap-1">
  {#each page.ways as way (frontCode(way.front))}
    {@const code = frontCode(way.front)}
    <FoldRow
      expected={way.expected}
      most={longest}
      found={way.found?.body_t60_s}
      now={isNow(way)}
      open={chosen === code}
      toggle={() => (chosen = chosen === code ? '' : code)}
    >
      {#snippet name()}{way.words}{#if page.laid}<span class="soft">, {page.laid.words} in it</span>{/if}{#if isNow(way)}<span
            class="soft ml-1">· now</span
          >{:else if code === advised}<span class="text-success"> · advised</span>{/if}{/snippet}
      {#snippet figure()}<span class="display text-xl">{seconds(way.expected.profile.body_t60_s)}</span>
        {#if way.thump}<span class="soft block text-sm">thump</span>{/if}
        {#if way.assessment.fits}<span class="text-success block text-sm">fits tonight</span>{:else}<span class="soft block text-sm"
            >{isNow(way) ? 'as it is' : way.reversible ? 'can be undone' : 'for good'}</span
          >{/if}{/snippet}
      {#snippet more()}
        <p>
          {bodyWords(way)}; {way.expected.profile.ring_t60_s == null
            ? 'the ring is gone'
            : `ring ${seconds(way.expected.profile.ring_t60_s)} at ${hertz(way.expected.profile.ring_hz)}`}.
          {way.expected.rings_on?.sentence ?? ''}
        </p>
        <Levels levels={way.levels} kind={page.drum.kind} />
        <p class="first-letter:uppercase">{way.rebound ? '' : `${FEELS[way.feel]}; `}{MICROPHONES[way.microphone]}.</p>
        {#if way.remark}<p>{way.remark}</p>{/if}
        {#if way.rebound}<p class="first-letter:uppercase">{reboundWords(way.rebound)}.</p>{/if}
        {#if !way.assessment.fits && way.assessment.off[0]}<p>Against tonight: {way.assessment.off[0].sentence}</p>{/if}
        {#if way.found}<p>
            Found in a trial: body {seconds(way.found.body_t60_s)} at {hertz(way.found.body_hz)}.
          </p>{/if}
        {#if !isNow(way)}
          <div class="no-print mt-1 flex flex-wrap gap-2">
            <button class="btn" disabled={hearing.loading} onclick={() => void hearing.open(meant(way))}
              ><Headphones class="size-5" aria-hidden="true" />Hear it first</button
            >
            {#if !way.now}
              <button class="btn" onclick={() => void fronts.try(way.front, laid)}
                >{way.front.state === 'ported' ? 'A spare head with it is on' : 'Try it so'}{page.laid
                  ? `, ${page.laid.words} in it`
                  : ''}</button
              >
            {/if}
            {#if way.front.state === 'ported' && page.front.state === 'whole'}
              <button class="btn btn-ghost" onclick={() => fronts.placeHole(way)}>Where it goes</button>
            {/if}
          </div>
        {/if}
      {/snippet}
    </FoldRow>
  {/each}
</ul>
