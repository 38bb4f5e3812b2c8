// Where the focus goes when somebody has signed in: to the page that they came
// for, so that the keyboard and a screen reader begin there and not at nothing.
let due = false;

/** Somebody signs in: the next page that is drawn takes the focus. */
export function arriving() {
  due = true;
}

/** Ref of a page's main part. */
export function arrived(main: HTMLElement | null) {
  if (!main || !due) return;
  due = false;
  main.focus({ preventScroll: true });
}
