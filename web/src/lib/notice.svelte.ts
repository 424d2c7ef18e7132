/** Messages of the device for when this page is out of sight: asked for once, by a tap. */
import type { Alarm } from "./alarms";

const ICON = "/static/icon-192.png";

class Notice {
  readonly known = "Notification" in globalThis && "serviceWorker" in navigator;
  state = $state<NotificationPermission>("Notification" in globalThis ? Notification.permission : "denied");
  /** Whether a service worker is there to show them. */
  ready = $state(false);

  start(): void {
    if (this.known) void navigator.serviceWorker.ready.then(() => (this.ready = true));
  }

  async ask(): Promise<void> {
    if (this.known) this.state = await Notification.requestPermission();
  }

  show = async (alarm: Alarm): Promise<void> => {
    if (this.state !== "granted" || !this.ready) return;
    const registered = await navigator.serviceWorker.ready;
    await registered.showNotification(alarm.what, {
      body: alarm.how,
      tag: alarm.key,
      icon: ICON,
      requireInteraction: alarm.pressing,
      data: `/#/jobs/${alarm.jobId}/run`,
    });
  };
}

export const notice = new Notice();
