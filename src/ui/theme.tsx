'use client';
/** The one theme: paper, ink, spruce for what can be done, brass for “look here”, brick for “stop”. */
import { App, ConfigProvider, type ThemeConfig, theme } from 'antd';
import { useState } from 'react';
import { type Mode, TOKENS } from '../core/tokens';
import { documentNonce, giveNonce } from './nonce';

/** The theme of the components in a mode. Their styles are made once, when the program is built, and not at run time. */
export function deskTheme(mode: Mode): ThemeConfig {
  const c = TOKENS[mode];
  const dark = mode === 'dark';
  return {
    hashed: false,

    // Variables of their own for each mode: those of the other one would stay in place after a change.
    cssVar: { key: `wergeld-${mode}` },
    algorithm: [dark ? theme.darkAlgorithm : theme.defaultAlgorithm, theme.compactAlgorithm],
    token: {
      // White words on it keep their contrast in both modes.
      colorPrimary: dark ? '#2f7a61' : c.spruce,
      colorInfo: c.spruce,
      colorLink: c.spruce,
      colorWarning: c.brass,
      colorError: c.brick,
      colorSuccess: c.spruce,
      colorText: c.ink,
      colorTextSecondary: c.quiet,
      colorTextDescription: c.quiet,
      colorTextPlaceholder: c.quiet,
      // What is chosen, and what went well, stand out by their edge and not by a dark ground.
      colorSuccessBg: c.raised,
      colorPrimaryBg: c.band,
      colorBgBase: c.raised,
      colorBgLayout: c.paper,
      colorBorder: c.edge,
      colorBorderSecondary: c.line,
      fontFamily: "'Source Sans 3 Variable', system-ui, sans-serif",
      fontSize: 14,
      fontSizeSM: 12.5,
      borderRadius: 3,
      ...(dark
        ? { colorBgContainer: c.raised, colorBgElevated: c.band, colorBgContainerDisabled: c.paper }
        : {}),
      wireframe: false,
      motion: false,
    },
    components: {
      Tabs: { itemSelectedColor: c.spruce, itemHoverColor: c.spruce, inkBarColor: c.spruce },
      Button: { primaryShadow: 'none', defaultShadow: 'none' },
      Drawer: { paddingLG: 16 },
    },
  };
}

/** Wraps the application in the theme. @param nonce of the page as the server makes it */
export function Theme({
  mode,
  nonce,
  children,
}: {
  mode: Mode;
  nonce: string | undefined;
  children: React.ReactNode;
}) {
  const [first] = useState(() => {
    giveNonce();
    return documentNonce() ?? nonce;
  });
  return (
    <ConfigProvider csp={first ? { nonce: first } : {}} theme={{ ...deskTheme(mode), zeroRuntime: true }}>
      <App className="app">{children}</App>
    </ConfigProvider>
  );
}
