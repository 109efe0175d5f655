import { useOutletContext } from 'react-router'
import type { FrameContext } from '../Frame'

export function LightSwitch() {
  const { light, setLight } = useOutletContext<FrameContext>()
  const night = light === 'night'
  return (
    <button type="button" className="quiet" onClick={() => setLight(night ? 'paper' : 'night')}>
      {night ? 'Paper' : 'Night'}
    </button>
  )
}
