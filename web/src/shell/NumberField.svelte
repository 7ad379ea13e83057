<script lang="ts">
  // A number with its label above it, and the unit in the label.
  interface Props {
    label: string;
    value: number | null;
    min: number;
    max?: number;
    step?: number | 'any';
    /** May it be left empty? What stands there then. */
    empty?: string;
    /** Tailwind classes of the whole field and of the input. */
    field?: string;
    width?: string;
    oninput?: () => void;
  }
  let { label, value = $bindable(), min, max, step = 'any', empty, field = '', width = 'w-full', oninput }: Props = $props();
</script>

<label class="grid gap-1 {field}">
  <span>{label}</span>
  <input class="input {width}" type="number" {min} {max} {step} required={empty === undefined} placeholder={empty} bind:value {oninput} />
</label>
