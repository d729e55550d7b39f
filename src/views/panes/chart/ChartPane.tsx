import { useStore } from '@nanostores/react';
import { atom } from 'nanostores';
import { useMemo, useState } from 'react';
import { Menu, MenuItem, MenuLine } from '../../../kit/Menu.tsx';
import { answer } from '../../../client/answers.ts';
import { formatPrice, type Instrument } from '../../../core/instrument/index.ts';
import { INTERVALS, isInterval } from '../../../core/market/index.ts';
import { instrumentOf, instruments, quoteOf } from '../../../live/index.ts';
import { alertAt } from '../../act/alerts.ts';
import { readSettings } from '../../workspace/settings.ts';
import { CHART } from './settings.ts';
import { $letters, $panes, intervalOf, setPaneSetting, settingOf, targetOf } from '../../workspace/panes.ts';
import { ChartController } from './controller.ts';
import { DrawMenu } from './DrawMenu.tsx';
import type { DrawingKind } from './drawing.ts';
import { IntervalMenu } from './IntervalMenu.tsx';
import { MarketPlot } from './MarketPlot.tsx';
import { StudiesMenu } from './StudiesMenu.tsx';

/** Bars, studies and drawings of one instrument, live, with one's own orders and position on them. */
export default function ChartPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  const wanted = intervalOf(pane);
  const interval = isInterval(wanted) ? wanted : INTERVALS[3];
  const ordersOn = settingOf<string>(pane, 'orders', 'off') === 'on';
  const [$tool] = useState(() => atom<DrawingKind | null>(null));
  const account = target?.account ?? '';
  const { hours } = readSettings(pane, CHART);
  const plot = useMemo(
    () => instrument && new ChartController({ pane: id, account, instrument, interval, hours }, $tool),
    [id, account, instrument, interval, hours, $tool],
  );
  if (!plot) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  return (
    <div className="flex h-full flex-col @container">
      <div className="flex h-[26px] shrink-0 items-center gap-3 overflow-hidden px-2">
        <IntervalMenu id={id} />
        <StudiesMenu id={id} />
        <DrawMenu plot={plot} />
        <MoreMenu plot={plot} />
        <button type="button" aria-pressed={ordersOn} className="whitespace-nowrap" onClick={() => setPaneSetting(id, 'orders', ordersOn ? 'off' : 'on')}>
          Orders <span className="hidden @min-[380px]:inline">from chart</span> <b>{ordersOn ? 'on' : 'off'}</b>
        </button>
      </div>
      {/* Another chart is another plot: nothing of the one before is carried over. */}
      <MarketPlot key={`${plot.of.instrument.id} ${account} ${interval} ${hours}`} plot={plot} ordersOn={ordersOn} />
    </div>
  );
}

/** A price alert where the market is: its line is then dragged. */
function alertAtLast(id: string, instrument: Instrument): void {
  const quote = quoteOf(instrument.id);
  const price = quote?.last ?? quote?.bid ?? null;
  if (price === null) answer(id, 'refused', `${instrument.id} has no price yet`);
  else void alertAt(id, instrument.id, formatPrice(instrument, price));
}

/** Comparing with another instrument, and taking the chart along. */
function MoreMenu({ plot }: { plot: ChartController }) {
  const { pane: id, instrument, interval } = plot.of;
  const pane = useStore($panes)[id];
  const compare = settingOf(pane, 'compare', '');
  const [text, setText] = useState('');
  const found = text.trim() === '' ? [] : [...instruments.values()].filter((one) => one.id.startsWith(text.trim().toUpperCase())).slice(0, 8);
  const take = (other: string): void => {
    setPaneSetting(id, 'compare', other);
    setText('');
  };
  return (
    <Menu
      className="w-[240px]"
      trigger={
        <button
          type="button"
          className="whitespace-nowrap text-quiet"
          aria-label={compare === '' ? 'More: compare and export' : `with ${compare}: compare and export`}
        >
          {compare === '' ? 'More' : `with ${compare}`}
        </button>
      }
    >
      <input
        className="field mb-1 w-full"
        aria-label="Compare with"
        placeholder="compare with …"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter' && found[0]) take(found[0].id);
        }}
      />
      {found.map((one) => (
        <MenuItem key={one.id} onPick={() => take(one.id)}>
          {one.id} <span className="text-quiet truncate">{one.name}</span>
        </MenuItem>
      ))}
      {compare !== '' && <MenuItem onPick={() => take('')}>Compare with nothing</MenuItem>}
      <MenuLine />
      <MenuItem onPick={() => alertAtLast(id, instrument)}>An alert at the last price, to drag</MenuItem>
      <MenuItem onPick={() => void import('./export.ts').then(({ saveCsv }) => saveCsv(plot.model, interval))}>What is shown as CSV</MenuItem>
      <MenuItem onPick={() => void import('./export.ts').then(({ savePng }) => plot.canvas && savePng(plot.model, plot.canvas, interval))}>
        The chart as PNG
      </MenuItem>
    </Menu>
  );
}
