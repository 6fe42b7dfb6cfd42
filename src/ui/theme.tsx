'use client';
/** The one theme: paper, ink, spruce for what can be done, brass for “look here”, brick for “stop”. */
import { App, ConfigProvider, theme } from 'antd';

/** Colors by mode; the style sheet has the same as variables. */
export const COLORS = {
  light: {
    paper: '#fbf9f4',
    raised: '#ffffff',
    ink: '#1d2a26',
    quiet: '#5b6b65',
    line: '#e4dfd3',
    spruce: '#1f5c4a',
    brass: '#8a6414',
    brick: '#a03a26',
  },
  dark: {
    paper: '#151a18',
    raised: '#1c2320',
    ink: '#e9e6dd',
    quiet: '#a3afa9',
    line: '#33403a',
    spruce: '#6fbf9f',
    brass: '#d9b45c',
    brick: '#e58a72',
  },
} as const;

/** Wraps the application in the theme. */
export function Theme({ mode, children }: { mode: 'light' | 'dark'; children: React.ReactNode }) {
  const c = COLORS[mode];
  const headerBg = mode === 'dark' ? '#232c28' : '#f3efe6';
  return (
    <ConfigProvider
      theme={{
        // Variables of their own for each mode: those of the other one would stay in place after a change.
        cssVar: { key: `wergeld-${mode}` },
        algorithm: [mode === 'dark' ? theme.darkAlgorithm : theme.defaultAlgorithm, theme.compactAlgorithm],
        token: {
          colorPrimary: mode === 'dark' ? '#3f8f73' : c.spruce,
          colorInfo: c.spruce,
          colorLink: c.spruce,
          colorWarning: c.brass,
          colorError: c.brick,
          colorSuccess: c.spruce,
          colorText: c.ink,
          colorTextSecondary: c.quiet,
          colorTextDescription: c.quiet,
          colorTextPlaceholder: c.quiet,
          colorBgBase: c.raised,
          colorBgLayout: c.paper,
          colorBorder: mode === 'dark' ? '#4a5a53' : '#cfc8b8',
          colorBorderSecondary: c.line,
          fontFamily: "'Source Sans 3 Variable', system-ui, sans-serif",
          fontSize: 14,
          fontSizeSM: 12.5,
          borderRadius: 3,
          ...(mode === 'dark'
            ? { colorBgContainer: c.raised, colorBgElevated: '#232c28', colorBgContainerDisabled: '#191f1c' }
            : {}),
          wireframe: false,
          motion: false,
        },
        components: {
          Table: {
            headerBg,
            headerSortActiveBg: headerBg,
            headerSortHoverBg: mode === 'dark' ? '#2b3631' : '#ebe5d8',
            bodySortBg: 'transparent',
            rowExpandedBg: c.paper,
            headerColor: c.quiet,
            rowHoverBg: mode === 'dark' ? '#232c28' : '#f7f4ec',
            cellPaddingBlockSM: 3,
            cellPaddingInlineSM: 8,
          },
          Tag: { defaultBg: 'transparent' },
          Button: { primaryShadow: 'none', defaultShadow: 'none' },
          Drawer: { paddingLG: 16 },
        },
      }}
    >
      <App className="app">{children}</App>
    </ConfigProvider>
  );
}
