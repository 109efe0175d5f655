import { Button } from 'antd'
import { useOutletContext } from 'react-router'
import type { FrameContext } from '../Frame'

export function LightSwitch() {
  const { light, setLight } = useOutletContext<FrameContext>()
  const night = light === 'night'
  return (
    <Button onClick={() => setLight(night ? 'paper' : 'night')}>
      {night ? 'Paper' : 'Night'}
    </Button>
  )
}
