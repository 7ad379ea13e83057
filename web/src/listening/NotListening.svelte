<script lang="ts">
  // Full screen, what a live session shows where it cannot begin or go on: why, and the ways on.
  import type { Snippet } from 'svelte';

  interface Props {
    /** Id for the dialog to be named by. */
    titleId: string;
    /** Another window listens. */
    busy: boolean;
    problem: string;
    /** What trying again is called. */
    again: string;
    /** Where one goes back to. */
    back: string;
    onagain: () => void;
    onclose: () => void;
    children?: Snippet;
  }
  let { titleId, busy, problem, again, back, onagain, onclose, children }: Props = $props();
</script>

<div class="m-auto max-w-3xl text-center">
  <h2 id={titleId} class="mb-5 text-4xl sm:text-5xl">{busy ? 'Listening elsewhere' : 'Not listening'}</h2>
  <p class="mb-8 text-2xl" role="alert">{problem}</p>
  {@render children?.()}
  <div class="flex flex-wrap justify-center gap-3">
    <button class="btn btn-primary btn-lg" onclick={onagain}>{busy ? 'Listen here instead' : again}</button>
    <button class="btn btn-lg" onclick={onclose}>{back} <kbd>Esc</kbd></button>
  </div>
</div>
