<script lang="ts">
  // What is to be said about the data at once: that nothing can be kept, or that something was lost.
  import Info from '@lucide/svelte/icons/info';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import X from '@lucide/svelte/icons/x';
  import { dataStatus } from './dataStatus.svelte';
</script>

{#each dataStatus.notes as note (note.code)}
  <div
    class="no-print flex items-start gap-3 px-3 py-2 sm:px-5 {note.weight === 'serious' ? 'bg-error text-error-content' : 'bg-base-300'}"
    role={note.weight === 'serious' ? 'alert' : 'note'}
  >
    {#if note.weight === 'serious'}
      <TriangleAlert class="mt-0.5 size-6 shrink-0" aria-hidden="true" />
    {:else}
      <Info class="mt-0.5 size-6 shrink-0" aria-hidden="true" />
    {/if}
    <p class="min-w-0 grow text-lg break-words">{note.sentence}</p>
    <button
      class="btn btn-sm btn-ghost btn-square text-inherit"
      aria-label="Close this message"
      onclick={() => dataStatus.putAway(note.code)}
    >
      <X class="size-5" aria-hidden="true" />
    </button>
  </div>
{/each}
