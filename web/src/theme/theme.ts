import { theme as antTheme, type ThemeConfig } from 'antd'

/** The one palette, light and dark. Names say what a colour means, not how it looks. */
export const PALETTES = {
  light: {
    paper: '#f7f6f2',
    sheet: '#fdfcf9',
    ink: '#1c2826',
    faint: '#5c6663',
    rule: '#d9d6cc',
    action: '#1f7a6d',
    fault: '#b0432c',
    caution: '#8a5f10',
    info: '#47597a',
    wash: '#ecebe4',
  },
  dark: {
    paper: '#161d1c',
    sheet: '#1d2624',
    ink: '#e8e6df',
    faint: '#a3aba6',
    rule: '#38433f',
    action: '#4fb3a4',
    fault: '#e2795f',
    caution: '#d9a441',
    info: '#9db1d6',
    wash: '#243029',
  },
} as const
export type Mode = keyof typeof PALETTES

export const TEXT = "'Figtree Variable', system-ui, sans-serif"
export const FIGURES = "'JetBrains Mono Variable', ui-monospace, monospace"

/**
 * Ant Design through its tokens: hairlines instead of shadows, 4 px corners, no default blue.
 * @param stylesheet its rules came as a stylesheet and are not to be made in the browser
 */
export function antd(mode: Mode, stylesheet = false): ThemeConfig {
  const p = PALETTES[mode]
  return {
    zeroRuntime: stylesheet,
    hashed: !stylesheet,
    algorithm: mode === 'dark' ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
    token: {
      colorPrimary: p.action,
      colorInfo: p.info,
      colorSuccess: p.action,
      colorWarning: p.caution,
      colorError: p.fault,
      colorLink: p.action,
      colorBgBase: p.paper,
      colorBgContainer: p.sheet,
      colorBgElevated: p.sheet,
      colorBgLayout: p.paper,
      colorText: p.ink,
      colorTextBase: p.ink,
      colorTextSecondary: p.faint,
      colorTextTertiary: p.faint,
      colorTextDescription: p.faint,
      colorTextPlaceholder: p.faint,
      colorBorder: p.rule,
      colorBorderSecondary: p.rule,
      borderRadius: 4,
      borderRadiusLG: 4,
      borderRadiusSM: 3,
      fontFamily: TEXT,
      fontFamilyCode: FIGURES,
      fontSize: 14,
      boxShadow: 'none',
      boxShadowSecondary: `0 0 0 1px ${p.rule}`,
      boxShadowTertiary: 'none',
      motionDurationMid: '0.12s',
      motionDurationSlow: '0.16s',
    },
    components: {
      Button: {
        primaryShadow: 'none',
        defaultShadow: 'none',
        dangerShadow: 'none',
        primaryColor: mode === 'dark' ? '#10201d' : '#ffffff',
      },
      Modal: { boxShadow: `0 0 0 1px ${p.rule}` },
      Form: { itemMarginBottom: 14, verticalLabelPadding: '0 0 2px' },
      Segmented: { itemSelectedBg: p.sheet, trackBg: p.wash },
    },
  }
}

/** Writes the palette as custom properties so that plain CSS can use it. */
export function applyPalette(mode: Mode): void {
  const root = document.documentElement
  for (const [name, value] of Object.entries(PALETTES[mode])) root.style.setProperty(`--${name}`, value)
  root.style.colorScheme = mode
  root.dataset.mode = mode
}
