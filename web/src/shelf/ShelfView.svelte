<script lang="ts">
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import { KINDS } from '../kit/standing';
  import { app } from '../shell/app.svelte';
  import { decibels, effort } from '../shell/figures';

  const MOST = 99;
  const set = (device: string, count: number) => void app.setShelf(device, Math.max(0, Math.min(MOST, Math.round(count) || 0)));
</script>

<h2 class="mt-3 text-3xl">Shelf</h2>
<p class="soft mb-4 max-w-3xl">
  What you own decides which plans are offered. Attack and time are from experience; no published source has them.
</p>
<ul class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each app.shelf as item (item.kind)}
    <li class="border-base-300 flex flex-col gap-2 rounded-box border p-4 {item.count > 0 ? 'bg-base-200' : ''}">
      <div class="flex items-center gap-2">
        <h3 class="grow text-xl first-letter:uppercase">{item.name}</h3>
        <button
          class="btn btn-square"
          disabled={item.count === 0}
          aria-label="One {item.name} fewer"
          onclick={() => set(item.kind, item.count - 1)}
        >
          <Minus class="size-5" aria-hidden="true" />
        </button>
        <input
          class="input w-16 text-center text-xl"
          type="number"
          min="0"
          max={MOST}
          value={item.count}
          aria-label="{item.name}, how many you own"
          onchange={(event) => set(item.kind, event.currentTarget.valueAsNumber)}
        />
        <button
          class="btn btn-square"
          disabled={item.count >= MOST}
          aria-label="One {item.name} more"
          onclick={() => set(item.kind, item.count + 1)}
        >
          <Plus class="size-5" aria-hidden="true" />
        </button>
      </div>
      <p>{item.cost}</p>
      <ul class="soft text-sm">
        {#each item.amounts as amount (amount.name)}
          <li>{amount.name}: attack {decibels(-amount.attack_db)}, {effort(amount.seconds)} to put on</li>
        {/each}
      </ul>
      <p class="soft mt-auto text-sm">
        For {item.kinds.map((kind) => KINDS[kind].toLowerCase()).join(', ')}.{item.inside ? ' A head has to come off.' : ''}
      </p>
    </li>
  {/each}
</ul>
