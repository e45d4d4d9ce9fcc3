/** The looks of a trial's page, light and dark; the colours are the console's. */
export const TRIAL_STYLE = `
:root { color-scheme: light dark; --paper: #FBF8F1; --panel: #FFFDF8; --ink: #17232B; --faint: #56636B; --line: #D9D2C3; --bad: #B93A20; --good: #45642F; --warn: #8A560A; }
@media (prefers-color-scheme: dark) { :root { --paper: #12191D; --panel: #182126; --ink: #E9E4D8; --faint: #9FABB1; --line: #303C42; --bad: #F08A70; --good: #A5C785; --warn: #E0AC55; } }
body { margin: 24px auto; max-width: 1100px; padding: 0 24px; background: var(--paper); color: var(--ink); font: 16px/1.45 'Atkinson Hyperlegible', system-ui, sans-serif; }
h1 { font-size: 28px; margin: 0; } h2 { font-size: 16px; margin: 0; } h3 { font-size: 13px; margin: 0; color: var(--faint); font-weight: 400; }
p { margin: 4px 0; } ul { margin: 8px 0 0; padding-left: 20px; }
code, pre { font: 12.5px/1.5 ui-monospace, monospace; } pre { white-space: pre-wrap; overflow-wrap: anywhere; margin: 4px 0 0; }
section { background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 12px 16px; margin-top: 12px; }
.mark { font-weight: 400; } .mark::before { content: '● '; } .mark.differs::before { content: '✕ '; } .mark.not-tried::before { content: '○ '; }
.differs { color: var(--bad); } .holds { color: var(--good); } .not-tried { color: var(--warn); } .faint { color: var(--faint); font-weight: 400; }
details { margin-top: 8px; } summary { cursor: pointer; color: var(--faint); }
.sides { display: grid; grid-template-columns: repeat(auto-fit, minmax(280px, 1fr)); gap: 16px; margin-top: 8px; }
`;

export function escapeHtml(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
