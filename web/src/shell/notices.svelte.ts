// Messages at the foot of the page, and what a screen reader is told.

/** A message, perhaps with a way back. */
export interface Notice {
  id: number;
  tone: 'plain' | 'problem';
  text: string;
  undo?: (() => Promise<unknown>) | undefined;
}

const NOTICE_MS = 9000;
/** A problem stays longer, but not over everything that is done after it. */
const PROBLEM_MS = 45_000;
const MOST = 3;

class Notices {
  list = $state.raw<Notice[]>([]);
  /** What the screen reader is told. */
  said = $state('');

  #next = 1;

  add(text: string, undo?: () => Promise<unknown>, tone: Notice['tone'] = 'plain') {
    const notice = { id: this.#next++, tone, text, undo };
    // Of changes only the newest can be undone: older ones may no longer fit. What is merely said, late perhaps, takes nothing away.
    const before = undo ? this.list.map((old) => ({ ...old, undo: undefined })) : this.list;
    this.list = [...before, notice].slice(-MOST);
    this.said = text;
    setTimeout(() => this.dismiss(notice.id), tone === 'plain' ? NOTICE_MS : PROBLEM_MS);
  }

  dismiss(id: number) {
    this.list = this.list.filter((notice) => notice.id !== id);
  }

  /** What went wrong with one drum says nothing about another. */
  forgetProblems() {
    this.list = this.list.filter((notice) => notice.tone !== 'problem');
  }

  /** Takes out the newest message with a way back. */
  takeUndoable(): Notice | undefined {
    const last = this.list.findLast((notice) => notice.undo);
    if (last) this.dismiss(last.id);
    return last;
  }
}

export const notices = new Notices();
