import { useState } from 'react'
import { Button } from './Button'

const KEPT = 'jugata-theme'

/** Sets the theme that was chosen last in this browser; dark if none was. */
export function startTheme() {
  if (localStorage.getItem(KEPT) === 'light') document.documentElement.dataset['theme'] = 'light'
}

/** Between the mid-dark and the lighter greys. */
export function ThemeButton() {
  const [light, setLight] = useState(document.documentElement.dataset['theme'] === 'light')
  return (
    <Button
      look="quiet"
      aria-pressed={light}
      onClick={() => {
        if (light) delete document.documentElement.dataset['theme']
        else document.documentElement.dataset['theme'] = 'light'
        localStorage.setItem(KEPT, light ? 'dark' : 'light')
        setLight(!light)
      }}
    >
      {light ? 'Darker' : 'Lighter'}
    </Button>
  )
}
