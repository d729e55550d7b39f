/** The two themes, one colour one meaning. The style sheet and the canvases are both fed from here. */
export const PALETTES = {
  night: {
    ground: '#0c211d',
    well: '#0f2620',
    pane: '#132c26',
    raised: '#1d3b34',
    hair: '#2c4d44',
    line: '#6b9186',
    ink: '#e8efe8',
    quiet: '#a9beb5',
    weed: '#66ddb4',
    copper: '#f09c63',
    'brass-line': '#f0d57f',
    'brass-plate': '#f0d57f',
    heather: '#b29af0',
    crimson: '#d42650',
    lamp: '#fff3d6',
    letters: '#0c211d',
    'brass-letters': '#0c211d',
    'crimson-letters': '#ffffff',
  },
  day: {
    ground: '#e4dac6',
    well: '#f9f4e7',
    pane: '#f4eddd',
    raised: '#fffaf0',
    hair: '#cfc3aa',
    line: '#7f7560',
    ink: '#15302b',
    quiet: '#4a5c56',
    weed: '#0a6a4c',
    copper: '#9a430f',
    'brass-line': '#6b5000',
    'brass-plate': '#e2bd4c',
    heather: '#5e2f91',
    crimson: '#b3002f',
    lamp: '#15302b',
    letters: '#fffaf0',
    'brass-letters': '#15302b',
    'crimson-letters': '#ffffff',
  },
} as const;

export type Theme = keyof typeof PALETTES;
export type Token = keyof (typeof PALETTES)['night'];

/** The inks of studies and drawings; a trader may choose others. */
export const STUDY_INKS = {
  night: { moss: '#99c163', straw: '#d6d690', slate: '#7c9edd', iris: '#cebeef', 'sea pink': '#f4a0c8', clay: '#c37c7b' },
  day: { moss: '#3b5e13', straw: '#726c19', slate: '#214487', iris: '#6e519d', 'sea pink': '#913266', clay: '#602a27' },
} as const satisfies Record<Theme, Record<string, string>>;

export type StudyInk = keyof (typeof STUDY_INKS)['night'];
