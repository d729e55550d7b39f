// A Vite plugin: the palette as CSS variables, and the docking package's style sheet without its themes.
import postcss from 'postcss';

const VIRTUAL = 'virtual:palette.css';

export const palette = (palettes) => ({
  name: 'kavix-palette',
  resolveId: (id) => (id === VIRTUAL ? `\0${VIRTUAL}` : null),
  load(id) {
    if (id !== `\0${VIRTUAL}`) return null;
    return Object.entries(palettes)
      .map(([theme, tokens]) => {
        const selector = theme === 'night' ? ':root' : `:root[data-theme='${theme}']`;
        const lines = Object.entries(tokens).map(([name, value]) => `--${name}: ${value};`);
        return `${selector} { ${lines.join(' ')} }`;
      })
      .join('\n');
  },
});

/** @returns {import('vite').Plugin} */
export const withoutThemes = () => ({
  name: 'kavix-without-themes',
  enforce: 'pre',
  transform(code, id) {
    if (!id.includes('dockview.css')) return null;
    const sheet = postcss.parse(code);
    sheet.walkRules((rule) => {
      const kept = rule.selectors.filter((selector) => !selector.includes('dockview-theme-'));
      if (kept.length === 0) rule.remove();
      else rule.selectors = kept;
    });
    return { code: sheet.toString(), map: null };
  },
});
