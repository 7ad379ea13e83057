<script lang="ts">
  // One way of several: its name, how long the body would last as a bar, a figure, and more on demand.
  import type { Snippet } from 'svelte';
  import type { Expectation } from '../api/types';
  import TimeBar from './TimeBar.svelte';

  interface Props {
    name: Snippet;
    figure: Snippet;
    more: Snippet;
    expected: Expectation;
    /** Time at the right end of the bar, s. */
    most: number;
    /** What was found in a trial, s. */
    found?: number | null;
    open: boolean;
    /** Whether it is how the drum is now. */
    now?: boolean;
    toggle: () => void;
  }
  let { name, figure, more, expected, most, found, open, now = false, toggle }: Props = $props();
</script>

<li class="rounded-box border {now ? 'border-primary' : open ? 'border-base-content' : 'border-base-300'}">
  <button
    class="grid w-full cursor-pointer grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 gap-y-1 p-2 text-left sm:grid-cols-[minmax(0,15rem)_minmax(0,1fr)_7.5rem]"
    aria-expanded={open}
    onclick={toggle}
  >
    <span class="text-lg leading-tight first-letter:uppercase">{@render name()}</span>
    <span class="order-last col-span-2 sm:order-none sm:col-span-1">
      <TimeBar {most} value={expected.profile.body_t60_s} range={expected.body_t60_s} {found} />
    </span>
    <span class="text-right whitespace-nowrap">{@render figure()}</span>
  </button>
  {#if open}<div class="border-base-300 grid gap-1 border-t p-3">{@render more()}</div>{/if}
</li>
