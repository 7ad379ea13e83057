<script lang="ts">
  import type { HeadSide } from '../api/types';
  import { hasHeads, isMetal, otherHead } from '../kit/kinds.svelte';
  import HearingChoice from '../listening/HearingChoice.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { view } from '../shell/view.svelte';
  import { cents, fixed } from '../shell/figures';
  import HeadCard from './HeadCard.svelte';
  import HoopRibbon from './HoopRibbon.svelte';
  import KitPitches from './KitPitches.svelte';
  import LugTable from './LugTable.svelte';
  import NewHead from './NewHead.svelte';
  import Rounds from './Rounds.svelte';
  import { signed } from './say';
  import TuningWish from './TuningWish.svelte';
  import TurnList from './TurnList.svelte';
  import { tune } from './tune.svelte';
  import TwoHeads from './TwoHeads.svelte';
  import Uneven from './Uneven.svelte';
  import WireCard from './WireCard.svelte';

  $effect(() => {
    // Another drum is chosen on the strip, or its data changed.
    void [drumKit.drumId, drumKit.kit];
    void tune.load();
  });

  const tuning = $derived(tune.tuning);
  const round = $derived(tuning?.rounds[0]);
  const before = $derived(tuning?.rounds[1]);
  const step = $derived(tune.step);
  const sides = $derived<{ side: HeadSide; word: string }[]>([
    { side: 'batter', word: 'Batter' },
    { side: 'lower', word: tuning ? otherHead(tuning.drum.kind).replace(' head', '') : 'Lower' },
  ]);
  let renewing = $state(false);
</script>

{#if drumKit.kit && drumKit.kit.drums.length === 0}
  <p class="mt-16 text-center text-xl">There is no drum to tune yet. Add one with <kbd>N</kbd>.</p>
{:else if drumKit.drum && !hasHeads(drumKit.drum.drum.kind)}
  {@const { name, kind } = drumKit.drum.drum}
  <div class="bg-base-200 mt-4 rounded-box p-6 text-xl">
    <p>{name} has no heads: there is nothing to tune. {isMetal(kind) ? 'What rings too long on a cymbal is muffled.' : ''}</p>
    <button class="btn btn-primary mt-3" onclick={() => (view.place = 'bench')}>To the bench <kbd>B</kbd></button>
  </div>
{:else if !tuning}
  <div class="bg-base-200 mt-4 h-96 rounded-box"></div>
{:else}
  <div class="mt-2 mb-3 flex flex-wrap items-center gap-x-5 gap-y-2">
    <h2 class="text-2xl">{tune.part === 'kit' ? 'The kit’s pitches' : `Tune the ${tuning.drum.name}`}</h2>
    <button
      class="btn no-print {tune.part === 'kit' ? 'btn-secondary' : 'btn-ghost'}"
      aria-pressed={tune.part === 'kit'}
      onclick={() => (tune.part = tune.part === 'kit' ? 'head' : 'kit')}>Whole kit</button
    >
    <div class="join no-print" role="group" aria-label="Which head">
      {#each sides as { side, word } (side)}
        <button
          class="btn join-item {tune.part === 'head' && tune.side === side ? 'btn-secondary' : ''}"
          aria-pressed={tune.part === 'head' && tune.side === side}
          onclick={() => {
            tune.part = 'head';
            void tune.choose(side);
          }}>{word}</button
        >
      {/each}
    </div>
    <div class="no-print ml-auto flex flex-wrap gap-2">
      <button class="btn btn-ghost" onclick={() => void tune.seat('reseat')}>Seat it <kbd>R</kbd></button>
      <button class="btn btn-ghost" onclick={() => void tune.seat('off_and_on')}>Off and on</button>
      <button class="btn btn-ghost" onclick={() => (renewing = true)}>New head …</button>
    </div>
  </div>
  {#if renewing && tuning.head}<NewHead now={tuning.head} done={() => (renewing = false)} />{/if}

  {#if tune.part === 'kit'}
    <KitPitches />
  {:else if !tuning.head}
    <p class="bg-base-200 rounded-box p-6 text-xl">This head is off. When it is on again, say so in the drum’s data (<kbd>E</kbd>).</p>
  {:else}
    <div class="mb-3 flex flex-wrap items-center gap-x-5 gap-y-2">
      <p class="display grow text-3xl" role="status">{tuning.headline}</p>
      {#if step}
        <button class="btn btn-primary btn-lg no-print" onclick={() => step.run()}>{step.words} <kbd>→</kbd></button>
      {/if}
    </div>
    {#if step}
      <div class="no-print mb-3 flex flex-wrap items-center gap-x-5 gap-y-2">
        <p class="soft text-lg">{step.hint}</p>
        <div class="ml-auto"><HearingChoice /></div>
      </div>
    {/if}

    <HoopRibbon
      lugs={tuning.lugs}
      order={tuning.order}
      pitches={round?.pitches.lugs ?? []}
      reference={tuning.wanted_hz ?? round?.pitches.mean_hz ?? undefined}
      wished={tuning.wanted_hz != null}
      expected={tuning.next?.turns.length ? tuning.next.expected_hz : undefined}
    />
    <p class="soft mt-1 text-sm">
      Cents from the {tuning.wanted_hz ? 'wish' : 'mean of the lugs'}; bars are the doubt, the pale band is even.
      {tuning.next?.turns.length ? 'Rings show where the lugs should be after the turns.' : ''}
      {#if before?.pitches.spread_cents != null && round?.pitches.spread_cents != null}
        The round before: within {Math.round(before.pitches.spread_cents)} cents.
      {/if}
    </p>

    <div class="mt-4 grid grid-cols-[minmax(0,1fr)] gap-4 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
      <section class="bg-base-200 rounded-box min-w-0 p-4" aria-labelledby="turns-title">
        <h3 id="turns-title" class="mb-2 text-xl">Next turns</h3>
        <TurnList {tuning} />
      </section>
      <section class="bg-base-200 rounded-box min-w-0 p-4" aria-labelledby="pitch-title">
        <h3 id="pitch-title" class="mb-2 text-xl">Pitch of this head</h3>
        {#if tuning.pitch}
          <dl class="grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-1 text-lg">
            <dt class="soft">{tuning.one_bolt ? 'At the edge' : 'At the lugs'}</dt>
            <dd>
              <span class="display text-2xl">{fixed(tuning.pitch.lug_hz, 1)} Hz</span>
              {tuning.pitch.lug_note.name}
              {signed(tuning.pitch.lug_note.cents)} cents <span class="soft">±{cents(tuning.pitch.sd_cents)}</span>
            </dd>
            <dt class="soft">The head alone</dt>
            <dd>
              about {fixed(tuning.pitch.head_hz, 0)} Hz, {tuning.pitch.head_note.name}
              <span class="soft">±{cents(1.645 * tuning.pitch.head_sd_cents)}</span>
            </dd>
            <dt class="soft">Tension</dt>
            <dd>
              about {fixed(tuning.pitch.tension_n_per_m / 1000, 1)} kN/m{#if tuning.pitch.rod_n}, {Math.round(tuning.pitch.rod_n / 10) * 10} N
                a rod{/if} <span class="soft">±{Math.round(164.5 * tuning.pitch.tension_sd)} %</span>
            </dd>
          </dl>
        {:else}
          <p class="soft text-lg">Lugs of such a drum usually sound about {Math.round(tuning.usual_lug_hz)} Hz.</p>
        {/if}
        {#if tuning.split_note}<p class="mt-3">{tuning.split_note}</p>{/if}
        <TuningWish {tuning} />
      </section>
      {#if tuning.pair}<TwoHeads {tuning} pair={tuning.pair} />{/if}
      {#if tuning.drum.kind === 'snare'}<WireCard {tuning} />{/if}
      <Uneven {tuning} />
      <HeadCard {tuning} />
    </div>
    {#if round}
      <LugTable {tuning} {round} />
      <Rounds {tuning} />
    {/if}
  {/if}
{/if}
