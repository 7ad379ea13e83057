<script lang="ts">
  // Why the other things on the shelf are in none of the plans. Worked out when it is asked.
  import { api } from '../api/client';
  import { server } from '../shell/server.svelte';
  import type { PassedOver, Plans } from '../api/types';

  let { drum, plans }: { drum: number; plans: Plans } = $props();

  let open = $state(false);
  let found = $state.raw<PassedOver[]>();
  let loading = $state(false);

  // Other plans leave out other things.
  $effect(() => {
    const asked = plans;
    found = undefined;
    if (!open) return;
    loading = true;
    void server
      .attempt(async () => {
        const answer = await api.passedOver(drum);
        if (asked === plans) found = answer;
      })
      .finally(() => {
        if (asked === plans) loading = false;
      });
  });
</script>

<details class="no-print mt-3" bind:open>
  <summary class="soft text-lg">Why not something else from the shelf?</summary>
  {#if found}
    {#if found.length === 0}
      <p class="mt-2">Everything on your shelf that is made for this drum is in a plan above.</p>
    {:else}
      <dl class="mt-2 grid gap-2">
        {#each found as other (other.device)}
          <div>
            <dt class="font-semibold first-letter:uppercase">{other.name}</dt>
            <dd>{other.sentence}</dd>
          </div>
        {/each}
      </dl>
    {/if}
  {:else if loading}
    <p class="soft mt-2">Trying each in every place …</p>
  {/if}
</details>
