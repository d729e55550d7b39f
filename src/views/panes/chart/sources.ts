import { $quotesFresh } from '../../../client/lamps.ts';
import { $sizes, sizeOf } from '../../../client/session.ts';
import { STUDIES, StudySeries } from '../../../core/study/index.ts';
import { $news, followHeadlines, followQuote, instrumentOf } from '../../../live/index.ts';
import { $theme } from '../../theme/theme.ts';
import { $panes, settingOf, type Pane } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { followCrosshair } from './crosshair.ts';
import { $drawings, loadDrawings } from './drawing-store.ts';
import { isShown } from './drawings.ts';
import { intervalMs, loadCompared, loadLevels } from './feed.ts';
import { indexOfTime, type ShownStudy, type StudyUse } from './model.ts';
import { linesOf } from './own.ts';
import type { Plot } from './plot.ts';
import { Reloading } from './reloading.ts';
import { CHART } from './settings.ts';
import { STRIP_PX } from './viewport.ts';

/** Keeps a part of a chart's model as its store has it. */
type Source = (plot: Plot) => () => void;

const LEVELS_AGAIN_MS = 60_000;
const COMPARED_AGAIN_MS = 15_000;
const NO_STUDIES: readonly StudyUse[] = [];
const SESSION_VWAP: StudyUse = { id: 'session-vwap', study: 'vwap', parameters: { deviations: 0 }, colour: 'sea pink', width: 1.3, stroke: 'solid' };

/** What the pane is set to: how it looks, its studies, levels, the compared instrument, room for the order strip. */
const settings: Source = (plot) => {
  const { model, of } = plot;
  const daily = model.intervalMs >= intervalMs('1d');
  const compared = new Reloading<string | null, typeof model.compared>(
    COMPARED_AGAIN_MS,
    (wish) => (wish === null ? Promise.resolve(null) : loadCompared(model, wish, of.interval)),
    (found) => {
      model.compared = found;
      plot.redraw();
    },
  );
  const levels = new Reloading<Parameters<typeof loadLevels>[1], typeof model.levels>(
    LEVELS_AGAIN_MS,
    (wish) => loadLevels(model, wish),
    (found) => {
      model.levels = found;
      plot.redraw();
    },
  );
  let before: Pane | undefined;
  const stops = [
    $panes.subscribe((panes) => {
      const pane = panes[of.pane];
      if (pane === undefined || pane === before) return;
      before = pane;
      const set = readSettings(pane, CHART);
      const other = settingOf(pane, 'compare', '');
      const compares = other !== '' && other !== of.instrument.id && instrumentOf(other) !== undefined;
      model.look = {
        style: set.style,
        filled: set.filled,
        percent: compares || set.scale === 'percent',
        volume: set.volume,
        soundings: set.soundings,
      };
      model.view.logarithmic = set.scale === 'log';
      model.view.stripPx = settingOf<string>(pane, 'orders', 'off') === 'on' ? STRIP_PX : 0;
      const uses = settingOf<readonly StudyUse[]>(pane, 'studies', NO_STUDIES);
      model.studies = studiesOf(plot, set.vwap && !daily ? [...uses, SESSION_VWAP] : uses);
      compared.wish(compares ? other : null);
      levels.wish({ previousDay: set.previousDay && !daily, openingRange: set.openingRange && !daily, openingMinutes: set.openingMinutes });
      plot.crosshairLetter = set.crosshair ? (pane.letter ?? pane.intervalLetter ?? null) : null;
      plot.redraw();
    }),
    plot.onLoaded(() => {
      compared.again();
      levels.again();
    }),
  ];
  return () => {
    stops.forEach((stop) => stop());
    compared.stop();
    levels.stop();
  };
};

/** Those that stay keep what they have computed. */
function studiesOf({ model }: Plot, wanted: readonly StudyUse[]): ShownStudy[] {
  return wanted.flatMap((use) => {
    const definition = STUDIES.get(use.study);
    if (!definition) return [];
    const before = model.studies.find(({ use: other }) => other.id === use.id && other.study === use.study);
    if (before && JSON.stringify(before.use.parameters) === JSON.stringify(use.parameters)) return [{ use, values: before.values }];
    const values = new StudySeries(definition, use.parameters);
    values.update(model.series, 0);
    return [{ use, values }];
  });
}

const own: Source = (plot) =>
  plot.$own.subscribe((held) => {
    plot.model.lines = linesOf(held, plot.of.instrument);
    plot.redraw();
  });

const drawings: Source = (plot) => {
  const { model, of } = plot;
  void loadDrawings(of.instrument.id);
  const stops = [
    $drawings.subscribe((all) => {
      model.drawings = (all[of.instrument.id] ?? []).filter((one) => isShown(one, of.interval));
      plot.redraw();
    }),
    plot.$selected.subscribe((selected) => {
      model.selected = selected;
      plot.redraw();
    }),
  ];
  return () => stops.forEach((stop) => stop());
};

/** Headlines of the company, whichever listing. */
const headlines: Source = (plot) => {
  const { model, of } = plot;
  let stopFollowing: (() => void) | null = null;
  const show = (): void => {
    const wanted = readSettings($panes.get()[of.pane], CHART).headlines;
    if (wanted) stopFollowing ??= followHeadlines();
    else {
      stopFollowing?.();
      stopFollowing = null;
    }
    model.headlines = wanted
      ? $news
          .get()
          .filter((one) => one.instrument !== null && instrumentOf(one.instrument)?.ticker === of.instrument.ticker)
          .map(({ time, text }) => ({ time: Date.parse(time), text }))
      : [];
    plot.redraw();
  };
  const stops = [$news.listen(show), $panes.subscribe((panes, before) => panes[of.pane] !== before?.[of.pane] && show())];
  return () => {
    stops.forEach((stop) => stop());
    stopFollowing?.();
  };
};

const sharedCrosshair: Source = (plot) =>
  followCrosshair(({ letter, from, time }) => {
    if (letter !== plot.crosshairLetter || from === plot.of.pane) return;
    plot.model.crosshair = time === null ? null : { index: Math.round(indexOfTime(plot.model, time)), y: null };
    plot.redraw();
  });

/** Whether its prices are fresh, what a measure is worth, and the theme's colours. */
const surroundings: Source = (plot) => {
  const { model, of } = plot;
  const stops = [
    followQuote(of.instrument.id, () => undefined),
    $theme.listen(() => plot.redraw()),
    $quotesFresh.subscribe((fresh) => {
      model.live = fresh;
      plot.redraw();
    }),
    $sizes.subscribe(() => {
      model.size = Number(sizeOf(of.account, of.instrument.id));
      plot.redraw();
    }),
  ];
  return () => stops.forEach((stop) => stop());
};

export const SOURCES: readonly Source[] = [settings, own, drawings, headlines, sharedCrosshair, surroundings];
