// Every action has a key. Pedals send page or arrow keys: forward does the next step, back goes to the drum before.
import { dialogs } from './dialogs.svelte';
import { view } from './view.svelte';
import { workbench } from '../bench/workbench.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { notices } from './notices.svelte';
import { hearing } from '../audition/audition.svelte';
import { look } from './theme.svelte';
import { looking } from '../bench/look.svelte';
import { next } from '../bench/next.svelte';
import { layout } from '../layout/layout.svelte';
import { topLayer } from './layers';
import { isDampedByHand } from '../kit/kinds.svelte';
import { listening } from '../listening/listen.svelte';
import { trainer } from '../notes/trainer.svelte';
import { night } from '../tonight/night.svelte';
import { stage } from '../tonight/stage.svelte';
import { tempo } from '../tonight/tempo.svelte';
import { tune } from '../tune/tune.svelte';

export interface Key {
  /** As shown. */
  shown: string;
  does: string;
  /** Values of KeyboardEvent.key. */
  keys: string[];
  run: () => void;
}

/** Brings a drum onto the bench or under the tuning key, from wherever the page is. */
function toDrum(id: number) {
  view.atDrum();
  void workbench.choose(id);
}

function chooseBy(step: number) {
  const drums = drumKit.kit?.drums ?? [];
  const at = drums.findIndex((state) => state.drum.id === drumKit.drumId);
  const drum = drums[(at + step + drums.length) % drums.length];
  if (drum) toDrum(drum.drum.id);
}

function showPlan(step: number) {
  const count = workbench.plans?.plans.length ?? 0;
  if (count > 0) workbench.planShown = (workbench.planShown + step + count) % count;
}

async function toStage() {
  // From another place the evening was not worked out yet; Tonight itself, once it comes up, would ask for it too, and only the later answer counts.
  if (!night.evening) await night.load();
  view.place = 'tonight';
  stage.begin();
}

function listen(hearing: 'microphone' | 'simulated') {
  if (drumKit.drumId === undefined) return;
  if (view.place !== 'tune') return listening.begin(drumKit.drumId, hearing);
  listening.hearing = hearing;
  tune.tap();
}

/** Presses the field that takes sound files, wherever the view shows one. */
function pressFileField() {
  document.querySelector<HTMLInputElement>('input[type=file][data-key=f]')?.click();
}

function train() {
  const drum = drumKit.drum?.drum;
  if (view.place === 'bench' && drum && isDampedByHand(drum.kind)) trainer.begin(drum.id, listening.hearing);
}

function strengths() {
  listening.dynamics = !listening.dynamics;
  notices.said = listening.dynamics ? 'Soft, medium and hard strikes are asked for.' : 'One strength is asked for.';
}

function doneTurning() {
  if (tune.tuning?.next?.turns.length) void tune.turned(tune.advised());
}

function done() {
  // There is nothing to be done with one key where holes are cut.
  if (view.place === 'front') return;
  if (view.place === 'tune') doneTurning();
  else if (layout.active) void layout.putOn();
  else if (workbench.plan && !workbench.bench?.treatment) void workbench.putOn(workbench.plan);
}

export const keys: Key[] = [
  {
    shown: 'Page Down, →',
    does: 'Do the next step (a pedal’s forward)',
    keys: ['PageDown', 'ArrowRight'],
    run: () => (view.place === 'tonight' ? void toStage() : view.place === 'tune' ? tune.step?.run() : next.step.run()),
  },
  { shown: 'Page Up, ←', does: 'The drum before (a pedal’s back)', keys: ['PageUp', 'ArrowLeft'], run: () => chooseBy(-1) },
  { shown: '1 … 9, 0, with Shift from 11 on', does: 'Choose a drum', keys: [], run: () => {} },
  { shown: 'Q', does: 'Kits: which one, which drums in it', keys: ['q'], run: () => dialogs.show('kits') },
  { shown: 'L', does: 'Listen through the microphone', keys: ['l'], run: () => listen('microphone') },
  { shown: 'I', does: 'Listen to the simulated drum', keys: ['i'], run: () => listen('simulated') },
  { shown: 'W', does: 'Listen to the whole kit, drum by drum', keys: ['w'], run: () => listening.beginKit(listening.hearing) },
  { shown: 'H', does: 'Ask for soft, medium and hard, or for one strength', keys: ['h'], run: () => strengths() },
  { shown: 'C', does: 'Look closer at what was heard', keys: ['c'], run: () => void looking.openBench() },
  { shown: 'J', does: 'Train note lengths on a bass drum damped by hand', keys: ['j'], run: () => train() },
  { shown: 'F', does: 'Take a sound file', keys: ['f'], run: () => pressFileField() },
  { shown: 'T', does: 'Tap the tempo', keys: ['t'], run: () => tempo.tap() },
  {
    shown: 'A',
    does: 'Hear it first: open, expected, as it is now',
    keys: ['a'],
    run: () => void (view.place === 'bench' && workbench.bench?.open && hearing.open(layout.active ? layout.plan : undefined)),
  },
  {
    shown: 'Y',
    does: 'Lay it out yourself',
    keys: ['y'],
    run: () => void (view.place === 'bench' && layout.toggle()),
  },
  { shown: 'P', does: 'Show the next plan', keys: ['p'], run: () => showPlan(1) },
  {
    shown: 'D',
    does: 'The plan or the turns shown are done',
    keys: ['d'],
    run: () => done(),
  },
  {
    shown: 'O',
    does: 'Take it off',
    keys: ['o'],
    run: () => void (workbench.bench?.treatment && workbench.takeOff(workbench.bench.treatment.id)),
  },
  { shown: 'U', does: 'Undo', keys: ['u'], run: () => void workbench.undo() },
  { shown: 'N', does: 'Add a drum', keys: ['n'], run: () => dialogs.show('new-drum') },
  { shown: 'E', does: 'Edit the drum', keys: ['e'], run: () => void (drumKit.drum && dialogs.show('drum')) },
  { shown: 'G', does: 'Tonight, the gig', keys: ['g'], run: () => (view.place = 'tonight') },
  { shown: 'V', does: 'Stage view of the evening', keys: ['v'], run: () => void toStage() },
  { shown: 'K', does: 'Tune (the key)', keys: ['k'], run: () => (view.place = 'tune') },
  { shown: 'R', does: 'Seat the head, step by step', keys: ['r'], run: () => void (view.place === 'tune' && tune.seat('reseat')) },
  { shown: 'B', does: 'Bench', keys: ['b'], run: () => (view.place = 'bench') },
  { shown: 'X', does: 'The drum’s other end: should I cut?', keys: ['x'], run: () => (view.place = 'front') },
  { shown: 'S', does: 'Shelf', keys: ['s'], run: () => (view.place = 'shelf') },
  { shown: 'M', does: 'Charcoal or daylight', keys: ['m'], run: () => look.toggle() },
  { shown: 'Z', does: 'Storage: what takes room, copies', keys: ['z'], run: () => dialogs.show('storage') },
  { shown: '.', does: 'Something broke: what gets you through the evening', keys: ['.'], run: () => dialogs.show('repairs') },
  { shown: '?', does: 'These keys', keys: ['?'], run: () => dialogs.show('keys') },
  { shown: 'Esc', does: 'Stop listening, close', keys: [], run: () => {} },
];

/** Elements that use letters or arrows themselves. */
function usesKeys(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest('dialog[open]')) return true;
  if (target.matches('textarea, select, input:not([type=radio], [type=checkbox])')) return true;
  return target.matches('input[type=radio]') && key.startsWith('Arrow');
}

/** Which drum in playing order a digit stands for, from 0: the keys are told by where they are, since Shift makes other signs of them. */
function placeOf(event: KeyboardEvent): number | undefined {
  const digit = /^(?:Digit|Numpad)(\d)$/.exec(event.code)?.[1] ?? (/^\d$/.test(event.key) ? event.key : undefined);
  return digit === undefined ? undefined : ((Number(digit) + 9) % 10) + (event.shiftKey ? 10 : 0);
}

export function pressed(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const over = topLayer();
  if (over) {
    // A dialog that is read over it has keys of its own.
    const inDialog = event.target instanceof HTMLElement && event.target.closest('dialog[open]');
    if (!inDialog && over.key(event.key)) event.preventDefault();
    return;
  }
  if (usesKeys(event.target, event.key)) return;
  const place = placeOf(event);
  if (place !== undefined) {
    const drum = drumKit.kit?.drums[place];
    if (drum) toDrum(drum.drum.id);
    return;
  }
  const key = keys.find((each) => each.keys.includes(event.key.length === 1 ? event.key.toLowerCase() : event.key));
  if (key && !event.repeat) {
    event.preventDefault();
    key.run();
  }
}
