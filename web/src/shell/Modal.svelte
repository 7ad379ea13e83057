<script lang="ts">
  // A dialog over the view. Escape, a press beside it and any form of method "dialog" in it close it.
  import { onDestroy, type Snippet, untrack } from 'svelte';

  interface Props {
    open: boolean;
    /** Id of the heading in it, which names it. */
    titleId: string;
    /** How wide it may grow. */
    width: string;
    /** Before it is shown. */
    onopen?: () => void;
    /** After it was closed, by whatever means. */
    onclose: () => void;
    onkeydown?: (event: KeyboardEvent) => void;
    children: Snippet;
  }
  let { open, titleId, width, onopen, onclose, onkeydown, children }: Props = $props();

  let dialog: HTMLDialogElement;

  $effect(() => {
    if (open === dialog.open) return;
    if (!open) return dialog.close();
    untrack(() => {
      onopen?.();
      // It may have found that there is nothing to show.
      if (open) dialog.showModal();
    });
  });

  // Left with the view that it lies over.
  onDestroy(() => open && onclose());
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby={titleId} {onkeydown} {onclose}>
  <div class="modal-box {width}">{@render children()}</div>
  <form method="dialog" class="modal-backdrop"><button tabindex="-1" aria-label="Close">Close</button></form>
</dialog>
