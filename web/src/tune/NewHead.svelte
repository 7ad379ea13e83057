<script lang="ts">
  // Another head goes on: which, and from when on its history counts.
  import { untrack } from 'svelte';
  import type { Head } from '../api/types';
  import HeadFields from '../kit/HeadFields.svelte';
  import { tune } from './tune.svelte';

  let { now, done }: { now: Head; done: () => void } = $props();
  let head = $state<Head>(untrack(() => ({ ...now, played_h: 0 })));
  let refused = $state('');

  async function putOn(guided: boolean) {
    try {
      if (!(await tune.putOnHead({ ...head }))) return;
      done();
      if (guided) await tune.seat('new_head');
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<form
  class="border-warning rounded-box no-print mb-3 grid gap-3 border p-3"
  onsubmit={(event) => {
    event.preventDefault();
    void putOn(true);
  }}
>
  <p class="text-lg">
    Another head begins a new history: rounds and takes from before no longer count for this drum, and what lies on it comes off. They stay
    in the lists, and it can be undone.
  </p>
  <HeadFields legend="The head that goes on" bind:head />
  {#if refused}<p class="text-error" role="alert">{refused}</p>{/if}
  <div class="flex flex-wrap gap-2">
    <button class="btn btn-primary">It goes on: guide me</button>
    <button type="button" class="btn btn-outline" onclick={() => void putOn(false)}>It is on already</button>
    <button type="button" class="btn btn-ghost" onclick={done}>It is the same</button>
  </div>
</form>
