import { theme, type ThemeConfig } from 'antd'

export type Light = 'paper' | 'night'

const TYPE = "'Atkinson Hyperlegible', system-ui, sans-serif"

/** Antd in the palette of the stylesheet: paper, ink and one copper accent. */
export function themeOf(light: Light): ThemeConfig {
  const night = light === 'night'
  return {
    algorithm: night ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      fontFamily: TYPE,
      fontSize: 15,
      borderRadius: 4,
      controlHeight: 44,
      colorPrimary: night ? '#f0975a' : '#9c4512',
      colorInfo: night ? '#f0975a' : '#9c4512',
      colorLink: night ? '#f0975a' : '#9c4512',
      colorBgBase: night ? '#1d1f21' : '#f6f1e6',
      colorBgContainer: night ? '#26292c' : '#fdfaf3',
      colorBgElevated: night ? '#2d3033' : '#fffdf8',
      colorTextBase: night ? '#ece7dc' : '#211f1b',
      colorTextSecondary: night ? '#b9b3a5' : '#5d574a',
      colorTextTertiary: night ? '#b9b3a5' : '#5d574a',
      colorTextDescription: night ? '#b9b3a5' : '#5d574a',
      colorTextDisabled: night ? '#b9b3a5' : '#5d574a',
      colorTextPlaceholder: night ? '#b9b3a5' : '#5d574a',
      colorBorder: night ? '#5a5e62' : '#8d8572',
      colorTextLightSolid: night ? '#1d1f21' : '#ffffff',
      motion: false,
    },
    components: {
      Segmented: {
        trackBg: night ? '#2d3033' : '#ece4d2',
        itemColor: night ? '#ece7dc' : '#211f1b',
        itemHoverColor: night ? '#ece7dc' : '#211f1b',
        itemSelectedBg: night ? '#ece7dc' : '#211f1b',
        itemSelectedColor: night ? '#1d1f21' : '#fdfaf3',
      },
    },
  }
}
