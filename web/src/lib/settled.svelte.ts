/** What a big button does changes with the state under it: for a moment after that it takes no tap.
 *
 * The second tap of a hurried thumb must not pass the step that has just come up, or end the coat it began.
 */
const SETTLES_MS = 600;

export class Settled {
  ready = $state(false);

  /** `subject` names what the button is for; call where effects may be made. */
  constructor(subject: () => string) {
    const at = $derived.by(subject); // the page is read anew every few seconds: only another subject counts
    $effect(() => {
      void at;
      this.ready = false;
      const wait = setTimeout(() => (this.ready = true), SETTLES_MS);
      return () => clearTimeout(wait);
    });
  }
}
