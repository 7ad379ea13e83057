<script lang="ts">
  import { onMount } from 'svelte';
  import HearFirst from './audition/HearFirst.svelte';
  import BenchView from './bench/BenchView.svelte';
  import { looking } from './bench/look.svelte';
  import LookDialog from './bench/LookDialog.svelte';
  import FrontView from './front/FrontView.svelte';
  import DrumEditor from './kit/DrumEditor.svelte';
  import KitDialog from './kit/KitDialog.svelte';
  import KitStrip from './kit/KitStrip.svelte';
  import RepairsDialog from './kit/RepairsDialog.svelte';
  import ListenStage from './listening/ListenStage.svelte';
  import NoteStage from './notes/NoteStage.svelte';
  import ShelfView from './shelf/ShelfView.svelte';
  import { type Address, read, titled, written } from './shell/address';
  import { drumKit } from './kit/drumKit.svelte';
  import { load, watch } from './shell/load';
  import { view } from './shell/view.svelte';
  import { workbench } from './bench/workbench.svelte';
  import { server } from './shell/server.svelte';
  import { notices } from './shell/notices.svelte';
  import DataNotes from './shell/DataNotes.svelte';
  import Header from './shell/Header.svelte';
  import KeyHelp from './shell/KeyHelp.svelte';
  import { dialogs } from './shell/dialogs.svelte';
  import { pressed } from './shell/keys';
  import { topLayer } from './shell/layers';
  import Notices from './shell/Notices.svelte';
  import StorageDialog from './shell/StorageDialog.svelte';
  import { night } from './tonight/night.svelte';
  import { stage } from './tonight/stage.svelte';
  import StageView from './tonight/StageView.svelte';
  import TonightView from './tonight/TonightView.svelte';
  import Guide from './tune/Guide.svelte';
  import TapStage from './tune/TapStage.svelte';
  import TuneView from './tune/TuneView.svelte';

  onMount(() => {
    // The view at once, so that what is pressed while the rest is read is not undone by it.
    const asked = read(location.hash);
    if (asked) toView(asked);
    if (asked?.drum !== undefined) drumKit.drumId = asked.drum;
    void load().then(async () => {
      await stage.resume();
      if (asked && !stage.open && !dialogs.open && view.place === asked.place) await toDialog(asked);
      isThere = true;
    });
    return watch();
  });

  /** The page shows what it was called for, and from then on the address follows it. */
  let isThere = $state(false);
  const here = $derived<Address>({ place: view.place, drum: drumKit.drumId, part: night.part, dialog: dialogs.open, of: dialogs.of });

  $effect(() => {
    const now = written(here);
    if (!isThere || location.hash === now) return;
    // What only opens over the view, or closes, is no step of its own.
    const asked = read(location.hash);
    const step = asked && written({ ...asked, dialog: undefined }) !== written({ ...here, dialog: undefined });
    if (step) history.pushState(null, '', now);
    else history.replaceState(null, '', now);
  });

  async function goTo(address: Address) {
    const { drum } = address;
    toView(address);
    if (drum !== undefined && drum !== drumKit.drumId && drumKit.kit?.drums.some((state) => state.drum.id === drum))
      await workbench.choose(drum);
    await toDialog(address);
  }

  function toView({ place, part }: Address) {
    view.place = place;
    if (part) night.part = part;
  }

  async function toDialog({ dialog, of }: Address) {
    if (dialog === 'look') await looking.openBench();
    else if (dialog) dialogs.show(dialog, of);
  }

  /** Back ends what lies over the view before it leaves the view. */
  function wentBack() {
    const dialog = [...document.querySelectorAll<HTMLDialogElement>('dialog[open]')].at(-1);
    const layer = topLayer();
    if (dialog ?? layer) {
      if (dialog) dialog.close();
      else layer?.end();
      history.pushState(null, '', written(here));
      return;
    }
    const asked = read(location.hash);
    if (asked) void goTo(asked);
  }
</script>

<svelte:head><title>{titled(here, drumKit.drum?.drum.name)}</title></svelte:head>
<svelte:window onkeydown={pressed} onpopstate={wentBack} />

<a
  class="btn btn-primary absolute top-2 left-2 z-50 -translate-y-20 focus:translate-y-0"
  href="#bench"
  onclick={(event) => {
    event.preventDefault();
    document.getElementById('bench')?.focus();
  }}>To the bench</a
>
<div inert={topLayer() !== undefined}>
  <Header />
  {#if !server.reachable}
    <p class="bg-error text-error-content px-4 py-3 text-lg font-semibold" role="alert">
      Soft Ember does not answer. Start it again; this page goes on by itself. Nothing that was shown as heard is lost.
    </p>
  {/if}
  <DataNotes />
  <KitStrip />
  <main id="bench" tabindex="-1" class="px-3 pb-24 outline-none sm:px-5">
    {#if view.place === 'shelf'}
      <ShelfView />
    {:else if view.place === 'tonight'}
      <TonightView />
    {:else if view.place === 'tune'}
      <TuneView />
    {:else if view.place === 'front'}
      <FrontView />
    {:else}
      <BenchView />
    {/if}
  </main>
</div>
<ListenStage />
<StageView />
<TapStage />
<Guide />
<NoteStage />
<Notices />
<KeyHelp />
<StorageDialog />
<DrumEditor />
<KitDialog />
<RepairsDialog />
<LookDialog />
<HearFirst />
<div class="sr-only" role="status" aria-live="polite">{notices.said}</div>
