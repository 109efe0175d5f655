import { Button } from 'antd'
import { useOutletContext } from 'react-router'
import type { FrameContext } from '../Frame'
import { GuideLink } from '../guide/GuideLink'
import { Who } from '../people/Who'

/** In the corner of every page: the guide to it, who works with it, and its light. */
export function Corner() {
  return (
    <>
      <GuideLink />
      <Who />
      <LightSwitch />
    </>
  )
}

function LightSwitch() {
  const { light, setLight } = useOutletContext<FrameContext>()
  const night = light === 'night'
  return <Button onClick={() => setLight(night ? 'paper' : 'night')}>{night ? 'Paper' : 'Night'}</Button>
}
