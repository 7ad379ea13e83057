// The dialogs that a key or the address opens: one at a time, over whatever view is shown.

export const DIALOGS = ['keys', 'storage', 'new-drum', 'drum', 'kits', 'repairs', 'look', 'hear'] as const;
export type Dialog = (typeof DIALOGS)[number];

class Dialogs {
  open = $state<Dialog>();

  show(dialog: Dialog) {
    this.open = dialog;
  }

  /** Closes these; another one that has come since stays. */
  close(...which: Dialog[]) {
    if (this.open && which.includes(this.open)) this.open = undefined;
  }
}

export const dialogs = new Dialogs();
