import { theme, type ThemeConfig } from 'antd'

export type Light = 'paper' | 'night'

/** Show the page in a light: the tokens of `styles/tokens.css` follow. */
export function setPageLight(light: Light): void {
  document.documentElement.setAttribute('data-light', light)
}

/** Ant Design in the tokens of the page, which has to be in this light already (see `setPageLight`). */
export function themeOf(light: Light): ThemeConfig {
  const styles = getComputedStyle(document.documentElement)
  const token = (name: string) => styles.getPropertyValue(`--${name}`).trim()
  return {
    algorithm: light === 'night' ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      fontFamily: token('words'),
      fontSize: 15,
      borderRadius: 4,
      controlHeight: 44,
      colorPrimary: token('copper'),
      colorInfo: token('copper'),
      colorLink: token('copper'),
      colorBgBase: token('paper'),
      colorBgContainer: token('sheet'),
      colorBgElevated: token('raised'),
      colorTextBase: token('ink'),
      colorTextSecondary: token('soft'),
      colorTextTertiary: token('soft'),
      colorTextDescription: token('soft'),
      colorTextDisabled: token('soft'),
      colorTextPlaceholder: token('soft'),
      colorBorder: token('border'),
      colorTextLightSolid: token('on-colour'),
      motion: false,
    },
    components: {
      Segmented: {
        trackBg: token('track'),
        itemColor: token('ink'),
        itemHoverColor: token('ink'),
        itemSelectedBg: token('ink'),
        itemSelectedColor: light === 'night' ? token('paper') : token('sheet'),
      },
    },
  }
}
