<script lang="ts">
  // How loud the low tone and the click become, and where the pitch lies, with their bounds.
  import type { DrumKind, FrontWay } from '../api/types';
  import { otherHead } from '../kit/kinds.svelte';
  import { changed } from './say';

  let { levels, kind }: { levels: FrontWay['levels']; kind: DrumKind } = $props();
</script>

<dl class="grid gap-x-6 sm:grid-cols-2">
  <div class="flex gap-2">
    <dt class="soft">To the player</dt>
    <dd>{changed(levels.player)}</dd>
  </div>
  {#if levels.front}
    <div class="flex gap-2">
      <dt class="soft">{otherHead(kind)}</dt>
      <dd>{changed(levels.front)}</dd>
    </div>
  {/if}
  <div class="flex gap-2">
    <dt class="soft">At a microphone inside</dt>
    <dd>{changed(levels.inside)}</dd>
  </div>
  <div class="flex gap-2">
    <dt class="soft">Click in front</dt>
    <dd>{changed(levels.click)}</dd>
  </div>
</dl>
