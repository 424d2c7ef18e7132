/** The page's own files: kept by a service worker, so that it opens without network; a new version waits to be asked. */
class Version {
  /** A newer one is on this device and takes over when told to. */
  newer = $state.raw<ServiceWorker | null>(null);
  /** The page opens on this device without network. */
  kept = $state(false);

  /** Where the browser has none, or the address is no safe one, the page works as long as it is open. */
  async start(): Promise<void> {
    const workers = navigator.serviceWorker;
    if (!workers || !isSecureContext || import.meta.env.DEV) return;
    const had = workers.controller;
    workers.addEventListener("message", (event: MessageEvent<{ to?: string }>) => {
      if (event.data.to?.startsWith("/#")) location.hash = event.data.to.slice(1);
    });
    workers.addEventListener("controllerchange", () => had && location.reload());
    try {
      const registered = await workers.register("/sw.js");
      void workers.ready.then(() => (this.kept = true));
      const waits = (): void => {
        if (registered.waiting && workers.controller) this.newer = registered.waiting;
      };
      waits();
      registered.addEventListener("updatefound", () => registered.installing?.addEventListener("statechange", waits));
    } catch {
      return; // refused by the browser: the page goes on without
    }
  }

  /** What is typed into a form is lost, what was tapped is not: so it is asked for. */
  load(): void {
    this.newer?.postMessage("takeover");
  }
}

export const version = new Version();
