/** What measures beside a phone: a scale, a film gauge, a sensor for air and surface, each by one small interface.
 *
 * By a cable (serial lines) or by Bluetooth, where the browser has it; the services are the public ones every such
 * sensor may offer: Weight Scale 1.0 and Environmental Sensing 1.0. A shop without hardware has the server's
 * simulated sensor and gauge, by the same interface; they say that they are.
 */
import { api, inWords } from "../api/client";

/** One thing read, in the units everything is stored in. */
export type Read = { g: number } | { um: number } | { air_degc: number; rh_frac: number; surface_degc?: number };
export type Kind = "scale" | "gauge" | "climate";

export interface Instrument {
  /** What it calls itself; empty: it does not say. */
  readonly name: string;
  /** Readings from now on, until it is let go of. */
  listen(take: (read: Read) => void, gone: () => void): Promise<void>;
  close(): Promise<void>;
}

export type Way = "serial" | "bluetooth";
/** The ways to an instrument this browser has. */
export const waysTo = (kind: Kind): Way[] =>
  (["serial", "bluetooth"] as Way[]).filter((w) => (w === "serial" ? "serial" in navigator : "bluetooth" in navigator && kind !== "gauge"));

/** Pick one: the browser asks. Null: nothing was picked. Rejects where it cannot be opened. */
export async function connect(kind: Kind, way: Way): Promise<Instrument | null> {
  try {
    return way === "serial" || kind === "gauge" ? await SerialInstrument.pick(kind) : await BluetoothInstrument.pick(kind);
  } catch (error) {
    if (error instanceof DOMException && error.name === "NotFoundError") return null;
    throw error;
  }
}

const NUMBER = String.raw`([-+]?\d+(?:[.,]\d+)?)`;
const value = (text: string): number => Number(text.replace(",", "."));
const GRAMS: Record<string, number> = { g: 1, kg: 1000, oz: 28.349523125, lb: 453.59237 };
const MICRONS: Record<string, number> = { µm: 1, um: 1, mil: 25.4, mils: 25.4, mm: 1000 };

/** A line as such instruments send it; null: no reading in it. */
export function parsed(kind: Kind, line: string): Read | null {
  if (kind === "scale") {
    const hit = new RegExp(`${NUMBER}\\s*(kg|g|oz|lb)\\b`, "i").exec(line);
    return hit && { g: value(hit[1]!) * GRAMS[hit[2]!.toLowerCase()]! };
  }
  if (kind === "gauge") {
    const hit = new RegExp(`${NUMBER}\\s*(µm|um|mils?|mm)\\b`, "i").exec(line);
    return hit && { um: value(hit[1]!) * MICRONS[hit[2]!.toLowerCase()]! };
  }
  const air = new RegExp(`${NUMBER}\\s*°?\\s*([CF])\\b`).exec(line);
  const rh = new RegExp(`${NUMBER}\\s*%`).exec(line);
  if (!air || !rh) return null;
  const told = value(air[1]!);
  return { air_degc: air[2] === "F" ? (told - 32) / 1.8 : told, rh_frac: value(rh[1]!) / 100 };
}

type Port = {
  open(options: { baudRate: number }): Promise<void>;
  close(): Promise<void>;
  readable: ReadableStream<Uint8Array<ArrayBuffer>>;
};
type SerialDoor = { requestPort(): Promise<Port> };
const BAUD = 9600;

class SerialInstrument implements Instrument {
  readonly name = "";
  #reader: ReadableStreamDefaultReader<string> | null = null;

  constructor(
    readonly kind: Kind,
    readonly port: Port,
  ) {}

  static async pick(kind: Kind): Promise<SerialInstrument> {
    const port = await (navigator as unknown as { serial: SerialDoor }).serial.requestPort();
    await port.open({ baudRate: BAUD });
    return new SerialInstrument(kind, port);
  }

  async listen(take: (read: Read) => void, gone: () => void): Promise<void> {
    this.#reader = this.port.readable.pipeThrough(new TextDecoderStream()).getReader();
    let rest = "";
    try {
      for (;;) {
        const { value: text, done } = await this.#reader.read();
        if (done) break;
        const lines = (rest + text).split(/[\r\n]+/);
        rest = lines.pop() ?? "";
        for (const line of lines) {
          const read = parsed(this.kind, line);
          if (read) take(read);
        }
      }
    } catch {
      // Pulled out: told below.
    }
    gone();
  }

  async close(): Promise<void> {
    await this.#reader?.cancel().catch(() => undefined);
    await this.port.close().catch(() => undefined);
  }
}

type Characteristic = EventTarget & { value?: DataView; startNotifications(): Promise<unknown>; readValue(): Promise<DataView> };
type Service = { getCharacteristic(id: number): Promise<Characteristic> };
type Radio = EventTarget & {
  name?: string;
  gatt: { connect(): Promise<{ getPrimaryService(id: number): Promise<Service> }>; disconnect(): void };
};
type BluetoothDoor = { requestDevice(wish: { filters: { services: number[] }[] }): Promise<Radio> };
/** Numbers of the public services and what they measure (Bluetooth SIG, assigned numbers). */
const SERVICE = { scale: 0x181d, climate: 0x181a };
const WEIGHT = 0x2a9d;
const TEMPERATURE = 0x2a6e;
const HUMIDITY = 0x2a6f;
const EVERY_MS = 2000;

class BluetoothInstrument implements Instrument {
  readonly name: string;
  #timer: ReturnType<typeof setInterval> | undefined;

  constructor(
    readonly kind: "scale" | "climate",
    readonly radio: Radio,
    readonly service: Service,
  ) {
    this.name = radio.name ?? "";
  }

  static async pick(kind: "scale" | "climate"): Promise<BluetoothInstrument> {
    const door = (navigator as unknown as { bluetooth: BluetoothDoor }).bluetooth;
    const radio = await door.requestDevice({ filters: [{ services: [SERVICE[kind]] }] });
    const server = await radio.gatt.connect();
    return new BluetoothInstrument(kind, radio, await server.getPrimaryService(SERVICE[kind]));
  }

  async listen(take: (read: Read) => void, gone: () => void): Promise<void> {
    this.radio.addEventListener("gattserverdisconnected", gone);
    if (this.kind === "scale") {
      const weight = await this.service.getCharacteristic(WEIGHT);
      weight.addEventListener("characteristicvaluechanged", () => weight.value && take(weighed(weight.value)));
      await weight.startNotifications();
      return;
    }
    const [air, rh] = [await this.service.getCharacteristic(TEMPERATURE), await this.service.getCharacteristic(HUMIDITY)];
    const read = async (): Promise<void> => {
      const [t, h] = [await air.readValue(), await rh.readValue()];
      take({ air_degc: t.getInt16(0, true) / 100, rh_frac: h.getUint16(0, true) / 10000 });
    };
    await read();
    this.#timer = setInterval(() => void read().catch(gone), EVERY_MS);
  }

  close(): Promise<void> {
    clearInterval(this.#timer);
    this.radio.gatt.disconnect();
    return Promise.resolve();
  }
}

/** What the shop's server reads for us, asked once; it rejects with the server's own words. */
class ShopInstrument implements Instrument {
  name = "";

  constructor(readonly ask: () => Promise<{ reads: Read[]; name: string }>) {}

  async listen(take: (read: Read) => void, gone: () => void): Promise<void> {
    const { reads, name } = await this.ask();
    this.name = name;
    for (const read of reads) take(read);
    gone();
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}

/** The gauge beside a part. */
export const shopGauge = (job_id: string, part_id: string): Instrument =>
  new ShopInstrument(async () => {
    const { data, error } = await api.POST("/api/jobs/{job_id}/parts/{part_id}/gauge", { params: { path: { job_id, part_id } } });
    if (!data) throw new Error(inWords(error));
    return { reads: data.um.map((um) => ({ um })), name: data.device };
  });

/** The sensor of a place; the place keeps what it says. */
export const shopSensor = (place_id: string, simulated: string): Instrument =>
  new ShopInstrument(async () => {
    const { data, error } = await api.POST("/api/weather/{place_id}/probe", { params: { path: { place_id } } });
    if (!data) throw new Error(inWords(error));
    const { air_degc, surface_degc, rh_frac } = data;
    return { reads: [{ air_degc, surface_degc, rh_frac }], name: data.simulated ? simulated : "" };
  });

/** All that an instrument says when asked once; or why it says nothing. */
export async function readOnce(one: Instrument): Promise<{ reads: Read[]; refusal: string }> {
  const reads: Read[] = [];
  try {
    await one.listen(
      (read) => reads.push(read),
      () => undefined,
    );
    return { reads, refusal: "" };
  } catch (error) {
    return { reads, refusal: error instanceof Error ? error.message : String(error) };
  } finally {
    await one.close();
  }
}

/** Weight Measurement: flags, then 0.005 kg or, by the first flag, 0.01 lb. */
const weighed = (data: DataView): Read => ({
  g: data.getUint16(1, true) * (data.getUint8(0) & 1 ? 0.01 * GRAMS.lb! : 5),
});
