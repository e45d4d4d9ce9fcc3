/** The looks in one place: names are what a colour means, values differ by theme. Contrast is AA or better on paper and on panel. */
const LIGHT = {
  paper: '#FBF8F1',
  panel: '#FFFDF8',
  sunken: '#F1ECE0',
  ink: '#17232B',
  faint: '#56636B',
  hairline: '#D9D2C3',
  water: '#0E5A5E',
  onWater: '#FFFFFF',
  brass: '#8A560A',
  vermilion: '#B93A20',
  plum: '#7A3B69',
  lichen: '#45642F',
} as const;

const DARK: Readonly<Record<keyof typeof LIGHT, string>> = {
  paper: '#12191D',
  panel: '#182126',
  sunken: '#0D1316',
  ink: '#E9E4D8',
  faint: '#9FABB1',
  hairline: '#303C42',
  water: '#5FB7BA',
  onWater: '#0B1517',
  brass: '#E0AC55',
  vermilion: '#F08A70',
  plum: '#D79BC8',
  lichen: '#A5C785',
};

const declare = (theme: Readonly<Record<string, string>>): string =>
  Object.entries(theme)
    .map(([name, value]) => `--${name}: ${value};`)
    .join(' ');

export const LIGHT_DECLARATIONS = declare(LIGHT);
export const DARK_DECLARATIONS = declare(DARK);

/** A colour of the theme in force. */
export const color = Object.fromEntries(Object.keys(LIGHT).map((name) => [name, `var(--${name})`])) as Readonly<
  Record<keyof typeof LIGHT, string>
>;

/** The one spacing scale, in pixels. */
export const space = { xs: '4px', s: '8px', m: '12px', l: '16px', xl: '24px' } as const;

export const font = {
  text: "'Atkinson Hyperlegible', system-ui, sans-serif",
  mono: "'JetBrains Mono', ui-monospace, monospace",
} as const;

export const corner = '4px';
