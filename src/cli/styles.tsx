/** The style sheet of the components, made once when the program is built, so that no page makes it while it is drawn. */
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { extractStyle } from '@ant-design/static-style-extract';
import * as antd from 'antd';
import type { Mode } from '../core/tokens';
import { deskTheme } from '../ui/theme';

/** Where it is written; pages import it from there. */
const SHEET = 'src/ui/components.css';

/** Components that others bring along. */
const BROUGHT = ['Button', 'Checkbox', 'Empty', 'Pagination', 'Spin', 'Tooltip', 'message'] as const;

/** The components that the sources name. */
function named(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((item) => {
    const path = join(folder, item.name);
    if (item.isDirectory()) return named(path);
    if (!/\.tsx$/.test(item.name)) return [];
    const found = /import \{([^}]*)\} from 'antd';/.exec(readFileSync(path, 'utf8'));
    return (found?.[1] ?? '').split(',').map((name) => name.trim());
  });
}

/** All rules in a mode, as text. */
const rulesIn = (mode: Mode, includes: readonly string[]): string =>
  extractStyle({
    includes: includes as never,
    customTheme: (node) => <antd.ConfigProvider theme={deskTheme(mode)}>{node}</antd.ConfigProvider>,
  });

/** Writes the sheet: the rules once, then the variables of the dark mode, in which alone the modes differ. */
export function writeStyles(): void {
  const includes = [...new Set([...named('src/ui'), ...named('src/app'), ...BROUGHT])].filter(
    (name) => name in antd && !/^(ConfigProvider|theme)$/.test(name),
  );
  const light = rulesIn('light', includes);
  const dark = rulesIn('dark', includes).match(/\.wergeld-dark[^{}]*\{[^{}]*\}/g) ?? [];
  // Variables of providers inside a component belong to neither of our modes.
  writeFileSync(SHEET, `${light.replace(/\.css-var-_[^{}]*\{[^{}]*\}/g, '')}\n${dark.join('\n')}\n`);
}
