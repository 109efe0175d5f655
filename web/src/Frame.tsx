import { Alert, Button, ConfigProvider } from 'antd'
import { useMemo, useState, useSyncExternalStore } from 'react'
import { Outlet } from 'react-router'
import { useAskedAnew, useAttending, useHere } from './api/people'
import { ClashAsked } from './shared/ClashAsked'
import { useSending } from './api/sending'
import { WaitingBanner } from './people/WaitingBanner'
import { Keys } from './shared/Keys'
import { SignInPage, WhoAsked } from './people/Who'
import { keep, kept } from './shared/browserStore'
import { notice } from './shared/notice'
import { type Light, setPageLight, themeOf } from './theme'

export interface FrameContext {
  light: Light
  setLight: (light: Light) => void
}

/** The light that was chosen here before; the page is in it before anything is drawn. */
function firstLight(): Light {
  const light = kept<Light>('light') ?? 'paper'
  setPageLight(light)
  return light
}

export function Frame() {
  const [light, setLight] = useState(firstLight)
  const look = useMemo(() => themeOf(light), [light])
  const change = (next: Light) => {
    keep('light', next)
    setPageLight(next)
    setLight(next)
  }
  const here = useHere().data
  useSending(here?.me?.id)
  useAttending(here)
  useAskedAnew()
  return (
    <ConfigProvider theme={look} virtual={false}>
      <Notice />
      <WaitingBanner />
      <Keys />
      <WhoAsked />
      <ClashAsked />
      {here?.way === 'sign-in' && !here.me ? (
        <SignInPage />
      ) : (
        <Outlet context={{ light, setLight: change } satisfies FrameContext} />
      )}
    </ConfigProvider>
  )
}

function Notice() {
  const told = useSyncExternalStore(notice.subscribe, notice.now)
  if (!told) return null
  const anew = (
    <Button onClick={() => window.location.reload()} size="large">
      Load this page anew
    </Button>
  )
  return <Alert banner type="error" title={told} action={anew} className="notice" />
}
