<script lang="ts">
  // The whole screen for what is done at the drum, read from two metres away. It takes the keys when it comes up.
  import { onMount, type Snippet } from 'svelte';

  interface Props {
    /** Id of the heading in it, which names it. */
    titleId: string;
    /** Room at the bottom for messages, so that they cover no button. */
    roomBelow?: boolean;
    children: Snippet;
  }
  let { titleId, roomBelow = false, children }: Props = $props();

  let panel: HTMLElement;
  onMount(() => panel.focus());
</script>

<div
  bind:this={panel}
  tabindex="-1"
  class="fixed inset-0 z-30 flex flex-col overflow-auto p-4 outline-none sm:p-8 {roomBelow ? 'pb-20 sm:pb-20' : ''}"
  style="background: var(--bed); color: var(--chalk)"
  role="dialog"
  aria-modal="true"
  aria-labelledby={titleId}
>
  {@render children()}
</div>
