import { ConfigProvider } from 'antd'
import { useEffect, useState } from 'react'
import { Outlet } from 'react-router'
import { Keys } from './parts/Keys'
import { keep, kept } from './model/kept'
import { type Light, themeOf } from './theme'

export interface FrameContext {
  light: Light
  setLight: (light: Light) => void
}

export function Frame() {
  const [light, setLight] = useState<Light>(() => kept<Light>('light') ?? 'paper')
  const change = (next: Light) => {
    keep('light', next)
    setLight(next)
  }
  useEffect(() => document.documentElement.setAttribute('data-light', light), [light])
  return (
    <ConfigProvider theme={themeOf(light)}>
      <Keys />
      <Outlet context={{ light, setLight: change } satisfies FrameContext} />
    </ConfigProvider>
  )
}
