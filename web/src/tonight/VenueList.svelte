<script lang="ts">
  import { dialogs } from '../shell/dialogs.svelte';
  import { fixed, within } from '../shell/figures';
  import Plus from '@lucide/svelte/icons/plus';
  import type { KeptVenue } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { night } from './night.svelte';
  import VenueEditor from './VenueEditor.svelte';

  const room = (venue: KeptVenue) => {
    if (venue.room.from === 'class') {
      const { class: code } = venue.room;
      const info = night.choices?.rooms.find((each) => each.class === code);
      return info ? `${info.name}: ${info.words}` : '';
    }
    const known = venue.room.t60_s.filter((each) => each != null);
    const times = `${fixed(Math.min(...known), 1)} to ${fixed(Math.max(...known), 1)} s`;
    return venue.room.from === 'measured' ? `Measured: rings for ${times}` : `Rings for ${times}, as typed`;
  };
  const loudness = (venue: KeptVenue) =>
    venue.band
      ? 'Band measured by octave'
      : (night.choices?.loudnesses.find((each) => each.loudness === venue.loudness)?.name ?? 'As loud as the genre usually is');
  const heard = (venue: KeptVenue) => night.choices?.heard.find((each) => each.heard === venue.heard)?.name ?? '';
</script>

<button class="btn btn-primary mb-4" onclick={() => dialogs.show('venue')}><Plus class="size-5" aria-hidden="true" />Add a venue</button>
{#if night.venues.length === 0}
  <p class="max-w-prose text-lg">
    No venues yet. A venue says what the room adds and what the band covers: under a loud band the same drum needs less muffling than in a
    quiet room.
  </p>
{/if}
<ul class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each night.venues as venue (venue.id)}
    {@const here = drumKit.kit?.tonight.venue_id === venue.id}
    <li class="flex flex-col gap-1 rounded-box border p-4 {here ? 'border-primary bg-base-200' : 'border-base-300'}">
      <h3 class="text-xl"><bdi>{venue.name}</bdi></h3>
      <p>{room(venue)}</p>
      <p>{loudness(venue)}; {within(heard(venue))}</p>
      {#if venue.notes}<p class="soft">{venue.notes}</p>{/if}
      <div class="mt-auto flex gap-2 pt-2">
        <button class="btn btn-sm" onclick={() => dialogs.show('venue', venue.id)}>Edit</button>
        {#if here}<span class="badge badge-outline badge-primary self-center">tonight</span>
        {:else}<button class="btn btn-sm" onclick={() => void night.chooseVenue(venue.id)}>Play here tonight</button>{/if}
      </div>
    </li>
  {/each}
</ul>
<VenueEditor />
