<script lang="ts">
  // How well a strike could be measured, and what stood in the way.
  import type { StrikeView } from '../api/types';

  let { quality, large = false }: { quality: StrikeView['quality']; large?: boolean } = $props();

  const tenths = $derived(Math.round(10 * quality.score));
</script>

<div class="flex flex-wrap items-center gap-x-3 gap-y-1 {large ? 'text-xl' : 'text-sm'}">
  <span class="flex items-center gap-1" role="img" aria-label="Quality {tenths} of 10">
    {#each { length: 10 }, i (i)}
      <span
        class={large ? 'h-5 w-3.5' : 'h-3 w-2'}
        style="background: {i < tenths ? 'var(--ember-2)' : 'transparent'}; outline: 1px solid {i < tenths
          ? 'var(--ember-4)'
          : 'currentcolor'}; outline-offset: -1px; opacity: {i < tenths ? 1 : 0.45}"
      ></span>
    {/each}
  </span>
  <span>Quality {tenths} of 10. {quality.why}</span>
</div>
