<script lang="ts">
  // What each drum of a session says: how often it was hit, its body, its ring, and what is not known.
  import type { SessionDrum, SessionHeard } from '../api/types';
  import { counted, hertz, seconds } from '../shell/figures';
  import { notices } from '../shell/notices.svelte';
  import { toneCsv, toneText } from './tone';

  let { session }: { session: SessionHeard } = $props();

  type Known = SessionDrum['body_t60_s'];

  const csv = $derived(`data:text/csv;charset=utf-8,${encodeURIComponent(toneCsv(session))}`);

  async function copy() {
    try {
      await navigator.clipboard.writeText(toneText(session));
      notices.add('Copied.');
    } catch {
      notices.add('The browser did not let it be copied. Save it as CSV instead.');
    }
  }
</script>

{#snippet tone(hz: number | null | undefined, length: Known)}
  {#if hz == null}
    <span class="soft">not known</span>
  {:else}
    <span class="whitespace-nowrap">{hertz(hz)}</span>
    {#if length}<strong class="whitespace-nowrap">{seconds(length.value)}</strong>
      <span class="soft text-sm whitespace-nowrap">{seconds(length.range.low)} to {seconds(length.range.high)}</span>
    {:else}<span class="soft">length not known</span>{/if}
  {/if}
{/snippet}

<ul class="mt-2 grid gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each session.drums as drum (drum.channel)}
    <li class="bg-base-200 rounded-box p-3">
      <p class="flex items-baseline gap-2">
        <span class="soft">{drum.channel}</span><span class="display grow text-lg">{drum.name}</span>
        <span class="soft text-sm"
          >{counted(drum.strokes, 'hit', 'hits')}{drum.ghosts > 0 ? `, ${counted(drum.ghosts, 'ghost note', 'ghost notes')}` : ''}</span
        >
      </p>
      <dl class="mt-1 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        <dt class="soft">Body</dt>
        <dd>{@render tone(drum.body_hz, drum.body_t60_s)}</dd>
        <dt class="soft">Ring</dt>
        <dd>{@render tone(drum.ring_hz, drum.ring_t60_s)}</dd>
      </dl>
      {#if drum.missing}<p class="border-warning mt-2 border-l-4 pl-3">{drum.missing}</p>{/if}
      {#if drum.tone.length > 0}
        <details class="print-open mt-2">
          <summary>Tone to begin with</summary>
          <p class="soft mt-1 text-sm"><strong>Bold</strong> comes from what was heard; the rest is where one usually begins.</p>
          {#each drum.tone as { channel, name, settings } (channel)}
            {#if drum.tone.length > 1}<h4 class="display mt-4"><span class="soft font-normal">{channel}</span> {name}</h4>{/if}
            <dl class="mt-1 grid gap-1">
              {#each settings as { says, why, measured } (says)}
                <div>
                  <dt class={measured ? 'font-semibold' : ''}>{says}</dt>
                  <dd class="soft text-sm leading-tight">{why}</dd>
                </div>
              {/each}
            </dl>
          {/each}
        </details>
      {/if}
    </li>
  {/each}
</ul>
<p class="soft mt-2 max-w-3xl text-sm">
  Times are for a fall of 60 dB, with the bounds that hold nine times in ten. Each drum is measured from its own microphone, where no other
  hit comes too soon. {session.others > 0
    ? `${counted(session.others, 'other sound', 'other sounds')}: cymbals, voices, or something that fell.`
    : ''}
</p>
<div class="no-print mt-3 flex flex-wrap items-center gap-2">
  <span>Tone to begin with, of all channels:</span>
  <button class="btn btn-sm" onclick={() => void copy()}>Copy as text</button>
  <a class="btn btn-sm" href={csv} download="tone-to-begin-with.csv">Save as CSV</a>
  <button class="btn btn-sm" onclick={() => window.print()}>Print</button>
</div>
