<script lang="ts">
  // Where files are taken: dropped on it, or chosen through whatever in it calls `choose`.
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    /** What the browser offers first, as in an input's `accept`. */
    accept: string;
    multiple?: boolean;
    /** The key that presses it. */
    key?: string;
    ontake: (files: File[]) => void;
    children: Snippet<[choose: () => void]>;
  }
  let { label, accept, multiple = false, key, ontake, children }: Props = $props();

  let input: HTMLInputElement;
  let over = $state(false);

  function chosen() {
    ontake([...(input.files ?? [])]);
    // The same file may be chosen once more.
    input.value = '';
  }
</script>

<div
  class="no-print rounded-box mt-3 border border-dashed px-3 py-2 {over ? 'border-primary bg-base-200' : 'border-base-300'}"
  role="group"
  aria-label={label}
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    ontake([...(event.dataTransfer?.files ?? [])]);
  }}
>
  <input
    bind:this={input}
    type="file"
    class="hidden"
    data-key={key}
    {accept}
    {multiple}
    tabindex="-1"
    aria-label={label}
    onchange={chosen}
  />
  {@render children(() => input.click())}
</div>
