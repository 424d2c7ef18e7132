/** What the log says went wrong, in words: the server sends a code and numbers, units and language are the reader's. */
import type { JobPage, Schemas } from "../api/client";
import { bare, duration, kelvin, percent, show, um, volume } from "./format";
import { say } from "../words";

export type LogFinding = Schemas["LogFinding"];
type Numbers = Record<string, number>;

const BY: Record<string, string> = { gauge: say.found.byGauge, wet: say.found.byComb, draw: say.found.byVolume };
/** A component of a mix as it is called. */
export const component = (role: unknown): string => (say.components as Record<string, string>)[String(role)] ?? String(role);

/** What of it is said: by how much, against what. */
const SAID: Record<LogFinding["code"], (v: Numbers, f: LogFinding) => string> = {
  "coat.early": (v) => say.found.coatEarly(duration(v.by_s!)),
  "coat.on_wet": (v) => (v.by_s ? say.found.coatOnWet(duration(v.by_s)) : say.found.coatOnWetNever),
  "coat.late": (v) => say.found.coatLate(duration(v.by_s!)),
  "coat.wrong_material": () => say.found.wrongMaterial,
  "pot.old": (v) => say.found.potOld(duration(v.by_s!)),
  "pot.gelled": (v) => say.found.potGelled(duration(v.by_s!)),
  "mix.ratio": (v) => say.found.mixRatio(percent(Math.abs(v.off!)), v.off! < 0 ? say.found.tooLittle : say.found.tooMuch),
  "mix.thinned": (v) => say.found.mixThinned(percent(v.got!), percent(v.limit!)),
  "mix.overdrawn": (v) => say.found.mixOverdrawn(volume(v.drawn_ml!), volume(v.mixed_ml!)),
  "film.volume": (v) => say.found.filmVolume(volume(v.mixed_ml!), volume(v.needed_ml!)),
  "film.thin": (v) => say.found.filmThin(um(v.um!), um(v.nominal_um!)),
  "film.thick": (v) => say.found.filmThick(um(v.um!), um(v.limit_um!)),
  "film.total": (v) => say.found.filmTotal(um(v.um!), um(v.limit_um!)),
  "film.coats": (v) => say.found.filmCoats(v.n!, v.limit!),
  "can.expired": (v, f) => say.found.canExpired(component(f.values?.role), String(f.values?.lot ?? ""), v.days!),
  "can.lots_differ": (_, f) => say.found.lotsDiffer(String(f.values?.lots ?? "")),
  "air.wind": (v) => say.found.airWind(show("m_s", v.value!), show("m_s", v.limit!, 0)),
  "air.rain": () => say.found.airRain,
  "painter.air": () => say.found.painterAir,
  "painter.sensitised": () => say.found.painterSensitised,
  "edge.ragged": () => say.found.edgeRagged,
  "edge.lifted": () => say.found.edgeLifted,
  "film.doubtful": (v, f) => say.found.filmDoubtful(um(v.um!), um(v.nominal_um!), BY[String(f.values?.by)] ?? ""),
  "log.twice": () => say.found.loggedTwice,
  "log.no_start": () => say.found.noStart,
  "log.no_end": () => say.found.noEnd,
  "log.clock": (v) => say.found.clockBack(duration(v.by_s!)),
  "metal.bare": (v) => say.found.metalBare(duration(v.limit_s! + v.by_s!), duration(v.limit_s!)),
  "sanded.early": (v) => (v.by_s ? say.found.sandedEarly(duration(v.by_s)) : say.found.sandedNever),
  "coats.fewer": (v) => say.found.coatsFewer(v.n!, v.planned!),
  "heat.early": (v) => say.found.heatEarly(show("degc", v.value!, 0), show("degc", v.limit!, 0)),
  "steps.unticked": (_, f) => say.found.stepsUnticked(String(f.values?.names ?? "")),
  "air.cold": (v) => say.found.airCold(show("degc", v.value!), show("degc", v.limit!, 0)),
  "air.hot": (v) => say.found.airHot(show("degc", v.value!), show("degc", v.limit!, 0)),
  "air.humid": (v) => say.found.airHumid(percent(v.value!), percent(v.limit!)),
  "air.dew": (v) => say.found.airDew(bare("k", v.value!), kelvin(v.limit!)),
  "unmasked.early": (v) => say.found.unmaskedEarly(duration(v.by_s!)),
  "unmasked.late": (v) => say.found.unmaskedLate(duration(v.by_s!)),
  "service.early": (v) => (v.by_s ? say.found.serviceEarly(duration(v.by_s)) : say.found.serviceNever),
  "prep.none": () => say.found.prepNone,
  "prep.acid": () => say.found.prepAcid,
  "prep.wet": (v) => say.found.prepWet(duration(v.wet_s!)),
  "prep.soiled": () => say.found.prepSoiled,
  "prep.ground_in": () => say.found.prepGroundIn,
  "prep.dusty": () => say.found.prepDusty,
  "prep.not_keyed": () => say.found.prepNotKeyed,
  "prep.coarse": (v) => say.found.prepCoarse(v.got!, v.wanted!),
  "prep.fine": (v) => say.found.prepFine(v.got!, v.wanted!),
  "mix.short": (v, f) => say.found.mixShort(percent(v.got!), component(f.values?.role), percent(v.limit!)),
  "mix.unlogged": () => say.found.mixUnlogged,
  "mix.induction": (v) => say.found.mixInduction(duration(v.by_s!), duration(v.limit_s!)),
  "pour.wrong_product": (_, f) => say.found.wrongProduct(component(f.values?.role), String(f.values?.product ?? "")),
  "polished.early": (v) => (v.by_s ? say.found.polishedEarly(duration(v.by_s)) : say.found.sandedNever),
  "cure.cold": (v) => say.found.cureCold(show("degc", v.value!), show("degc", v.limit!, 0), duration(v.stood_s!)),
  "painter.unsaid": () => say.found.painterUnsaid,
  "layer.skipped": (_, f) => say.found.layerSkipped(String(f.values?.names ?? "")),
  "system.unfinished": (_, f) =>
    (f.values?.how === "use" ? say.found.unfinishedUse : say.found.unfinishedClosed)(String(f.values?.names ?? "")),
  "moved.early": (v) => (v.by_s ? (v.out ? say.found.movedOut : say.found.movedEarly)(duration(v.by_s)) : say.found.movedNever),
};
const KEYS = {
  "coat.early": "coatEarly",
  "coat.on_wet": "coatOnWet",
  "coat.late": "coatLate",
  "coat.wrong_material": "wrongMaterial",
  "pot.old": "potOld",
  "pot.gelled": "potGelled",
  "mix.ratio": "mixRatio",
  "mix.thinned": "mixThinned",
  "mix.overdrawn": "mixOverdrawn",
  "film.volume": "filmVolume",
  "film.thin": "filmThin",
  "film.thick": "filmThick",
  "film.total": "filmTotal",
  "film.coats": "filmCoats",
  "can.expired": "canExpired",
  "can.lots_differ": "lotsDiffer",
  "air.wind": "airWind",
  "air.rain": "airRain",
  "painter.air": "painterAir",
  "painter.sensitised": "painterSensitised",
  "edge.ragged": "edgeRagged",
  "edge.lifted": "edgeLifted",
  "film.doubtful": "filmDoubtful",
  "log.twice": "loggedTwice",
  "log.no_start": "noStart",
  "log.no_end": "noEnd",
  "log.clock": "clockBack",
  "metal.bare": "metalBare",
  "sanded.early": "sandedEarly",
  "coats.fewer": "coatsFewer",
  "heat.early": "heatEarly",
  "steps.unticked": "stepsUnticked",
  "air.cold": "airCold",
  "air.hot": "airHot",
  "air.humid": "airHumid",
  "air.dew": "airDew",
  "unmasked.early": "unmaskedEarly",
  "unmasked.late": "unmaskedLate",
  "service.early": "serviceEarly",
  "prep.none": "prepNone",
  "prep.acid": "prepAcid",
  "prep.wet": "prepWet",
  "prep.soiled": "prepSoiled",
  "prep.ground_in": "prepGroundIn",
  "prep.dusty": "prepDusty",
  "prep.not_keyed": "prepNotKeyed",
  "prep.coarse": "prepCoarse",
  "prep.fine": "prepFine",
  "mix.short": "mixShort",
  "mix.unlogged": "mixUnlogged",
  "mix.induction": "mixInduction",
  "pour.wrong_product": "wrongProduct",
  "polished.early": "polishedEarly",
  "cure.cold": "cureCold",
  "painter.unsaid": "painterUnsaid",
  "layer.skipped": "layerSkipped",
  "system.unfinished": "systemUnfinished",
  "moved.early": "movedEarly",
} as const satisfies Record<LogFinding["code"], keyof typeof say.todo>;

/** What is put right by sanding where it can be sanded: a hood, a boot, dye, wax, a film that peels cannot. */
const SANDED: LogFinding["code"][] = [
  "coat.on_wet",
  "coat.late",
  "film.thin",
  "sanded.early",
  "air.rain",
  "unmasked.late",
  "edge.ragged",
  "edge.lifted",
];
export type Mend = keyof typeof say.mends;
const mendOf = (f: LogFinding): Mend => ((f.mend ?? "") in say.mends ? (f.mend as Mend) : "sand");

export const judged = (f: LogFinding): { what: string; todo: string } => ({
  what: SAID[f.code](f.values as Numbers, f),
  todo: SANDED.includes(f.code) && mendOf(f) !== "sand" ? say.mends[mendOf(f)] : say.todo[KEYS[f.code]],
});
/** Where it is: the part, and which coat of what. */
export function whereFound(page: JobPage, f: LogFinding): string {
  const part = page.facts.parts.find((p) => p.id === f.part_id)?.name ?? "";
  const film = page.state.parts.flatMap((p) => p.films).find((x) => x.coat_id === f.coat_id);
  const sheet = film ? page.facts.sheets[film.sheet_id]?.name : undefined;
  return film && sheet ? say.found.where(part, sheet, film.n) : part;
}
/** How sure it is where a reading was only assumed or imported; empty where it was measured. */
export const readBy = (f: LogFinding): string => {
  const source = String(f.values?.source ?? "");
  return source === "default" || source === "typical" ? say.common.assumed : source === "import" ? say.found.imported : "";
};
export const unmet = (page: JobPage): LogFinding[] => (page.state.findings ?? []).filter((f) => f.met_at == null);
