// What to do next with the drum on the bench: one step, said large, done by one key or pedal.
import { shelfIsMet } from '../beginning/beginning.svelte';
import { kits } from '../kit/kits.svelte';
import { listening, STRIKES } from '../listening/listen.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { workbench } from './workbench.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { view } from '../shell/view.svelte';

export interface Step {
  /** What the drummer does. */
  text: string;
  /** What Soft Ember does about it. */
  detail: string;
  /** Name of the button; none where there is nothing to press. */
  action?: string;
  run: () => void;
}

const nothing = () => {};

class Next {
  get step(): Step {
    const { drum } = drumKit;
    const { bench, plans } = workbench;
    if (!drumKit.kit) return { text: 'One moment.', detail: 'Reading the kit.', run: nothing };
    if (!drum) return { text: 'Add your first drum.', detail: 'Its kind and size are enough to begin.', run: nothing };
    if (!bench) return { text: drum.drum.name, detail: 'Reading what is known about it.', run: nothing };
    const listen = () => listening.begin(drum.drum.id, listening.hearing);
    /** Of metal it is said where it is struck. */
    const way = bench.ways_to_strike.find(({ now }) => now);
    const how = way ? `, ${way.words}` : '';
    if (drum.standing === 'in_case') {
      return {
        text: `The ${drum.drum.name} stays in its case.`,
        detail: 'Nothing is planned for it tonight.',
        action: 'Set it up',
        run: () => void kits.setUp(drum.drum.id),
      };
    }
    if (drum.drum.plays_along) return this.#onward('It plays along, and is not measured.');
    if (bench.turned_since) {
      return {
        text: `Hit the ${drum.drum.name} ${STRIKES} times again.`,
        detail: 'It was tuned since it was heard: what stands here is of the drum before.',
        action: 'Listen',
        run: listen,
      };
    }
    if (bench.in_doubt) {
      return { text: bench.in_doubt.sentence, detail: 'Hit it again, or count it under Do.', action: 'Listen', run: listen };
    }
    if (bench.treatment && !bench.found) {
      return {
        text: `Hit the ${drum.drum.name} ${STRIKES} times again${how}.`,
        detail: 'Same spot, same strength: then you see whether it did what was expected.',
        action: 'Listen',
        run: listen,
      };
    }
    if (bench.treatment) return this.#onward(bench.found?.assessment.fits ? 'It fits now.' : 'Checked.');
    if (!bench.open && drum.ready) return this.#onward('Left to sound as it does.');
    if (!bench.open) {
      return {
        text: `Hit the ${drum.drum.name} ${STRIKES} times${how}.`,
        detail: 'Nothing on it yet. Let each strike ring out; it counts by itself.',
        action: 'Listen',
        run: listen,
      };
    }
    if (workbench.planning && !plans)
      return { text: 'Looking through the shelf.', detail: 'Trying every device in every place.', run: nothing };
    if (plans?.reach === 'nothing_needed') return this.#onward('It fits as it is.');
    if (plans?.first) return { text: 'Empty it first.', detail: plans.first, run: nothing };
    const plan = workbench.plan;
    if (plan) {
      // Rods are let down or turned, not put on.
      const isDone =
        plan.placements.some(({ device }) => device === 'slack_lugs') || plan.placements.every(({ device }) => device === 'rods_turned');
      const verb = isDone ? 'Do' : 'Put on';
      return {
        text: `${verb}: ${plan.words}.`,
        detail: `As drawn under Do${(plans?.plans.length ?? 0) > 1 ? ', or choose another plan' : ''}. Then say so.`,
        action: 'It is on',
        run: () => void workbench.putOn(plan),
      };
    }
    if (!shelfIsMet(deviceShelf.devices) && !workbench.plansRefused) {
      return {
        text: 'What have you got to put on it?',
        detail: 'Say it in one press under Do, or count it on the shelf.',
        action: 'Open the shelf',
        run: () => (view.place = 'shelf'),
      };
    }
    return {
      text: 'Nothing on the shelf helps here.',
      detail: workbench.plansRefused ?? 'Put what you own on the shelf, or loosen what is ruled out.',
      action: 'Open the shelf',
      run: () => (view.place = 'shelf'),
    };
  }

  /** On to the next drum that still needs something. */
  #onward(said: string): Step {
    const drums = drumKit.kit?.drums ?? [];
    const at = drums.findIndex((state) => state.drum.id === drumKit.drumId);
    const open = [...drums.slice(at + 1), ...drums.slice(0, at)].filter((state) => !state.ready);
    const following = open[0];
    const here = drums[at];
    if (!following && here && !here.ready) {
      return {
        text: `${said} The ${here.drum.name} does not fit yet.`,
        detail: 'All others do. What comes next stands under Do.',
        run: nothing,
      };
    }
    if (!following) return { text: `${said} The whole kit fits tonight.`, detail: 'Play.', run: nothing };
    return {
      text: `${said} Next: ${following.drum.name}.`,
      detail: open.length === 1 ? 'One drum of the kit is not ready yet.' : `${open.length} drums of the kit are not ready yet.`,
      action: `To the ${following.drum.name}`,
      run: () => void workbench.choose(following.drum.id),
    };
  }
}

export const next = new Next();
