<script lang="ts">
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import Undo from '@lucide/svelte/icons/undo-2';
  import X from '@lucide/svelte/icons/x';
  import { notices } from './notices.svelte';
  import { workbench } from '../bench/workbench.svelte';
</script>

<div class="no-print pointer-events-none fixed inset-x-0 bottom-0 z-40 flex flex-col items-center gap-2 p-3">
  {#each notices.list as notice (notice.id)}
    <div
      class="pointer-events-auto flex w-full max-w-2xl items-center gap-3 rounded-box border px-4 py-2 text-lg shadow-lg
        {notice.tone === 'problem' ? 'bg-error text-error-content border-error' : 'bg-base-300 border-neutral'}"
      role={notice.tone === 'problem' ? 'alert' : undefined}
    >
      {#if notice.tone === 'problem'}<TriangleAlert class="size-6 shrink-0" aria-hidden="true" />{/if}
      <p class="grow">{notice.text}</p>
      {#if notice.undo}
        <button class="btn btn-sm btn-secondary" onclick={() => void workbench.undo()}>
          <Undo class="size-4" aria-hidden="true" /> Undo <kbd>U</kbd>
        </button>
      {/if}
      <button class="btn btn-sm btn-ghost btn-square" aria-label="Close this message" onclick={() => notices.dismiss(notice.id)}>
        <X class="size-5" aria-hidden="true" />
      </button>
    </div>
  {/each}
</div>
