<script lang="ts">
  // What each drum of a session says: how often it was hit, its body, its ring, and what is not known.
  import type { SessionDrum, SessionHeard } from '../api/types';
  import { counted, hertz, seconds } from '../shell/figures';

  let { session }: { session: SessionHeard } = $props();

  type Known = SessionDrum['body_t60_s'];
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
    </li>
  {/each}
</ul>
<p class="soft mt-2 max-w-3xl text-sm">
  Times are for a fall of 60 dB, with the bounds that hold nine times in ten. Each drum is measured from its own microphone, where no other
  hit comes too soon. {session.others > 0
    ? `${counted(session.others, 'other sound', 'other sounds')}: cymbals, voices, or something that fell.`
    : ''}
</p>
