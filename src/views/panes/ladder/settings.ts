import { choice, FAR_TICKS, GROUP, toggle } from '../../workspace/settings.ts';

export const LADDER = {
  spine: choice('Spine', [['third', 'stays until the market leaves the middle third'], ['follow', 'follows the market'], ['never', 'never moves by itself']]), // prettier-ignore
  group: GROUP,
  farTicks: FAR_TICKS,
  pins: toggle('Pins', true),
  depth: toggle('Depth', true),
  result: toggle('Result beside each price', true),
  sizes: toggle('Size keys', true),
  buttons: toggle('Buttons below', true),
} as const;
