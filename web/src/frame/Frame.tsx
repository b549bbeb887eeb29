import { Archive, LogOut, Menu, Moon, Smartphone, Sun } from 'lucide-react'
import { clsx } from 'clsx'
import { Suspense, useEffect, useState } from 'react'
import { Link, NavLink, Outlet, useNavigate } from 'react-router'
import { access } from '../access/access'
import { later } from '../components/later'
import { useSession } from '../api/queries'
import { useMode } from '../theme/mode'
import { SCREENS } from '../screens'
import { isTyping } from './keys'
import { PairStrip } from './PairStrip'
import styles from './Frame.module.css'

const CommandSearch = later(() => import('./CommandSearch'), { what: 'The search', over: true })
const KeyList = later(() => import('./KeyList'), { what: 'The list of keys', over: true })
const OnPhone = later(() => import('../access/OnPhone'), { what: 'The way to the phone', over: true })
/** Rail, pair strip and the screen; keys and search hang on it. */
export function Frame() {
  const [overlay, setOverlay] = useState<'search' | 'keys' | 'phone' | null>(null)
  const [more, setMore] = useState(false)
  const navigate = useNavigate()
  const { mode, toggle } = useMode()
  const session = useSession()
  useEffect(() => {
    let waiting = 0
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault()
        setOverlay('search')
        return
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
      if (Date.now() - waiting < 1200) {
        waiting = 0
        const screen = SCREENS.find((s) => s.key === event.key.toLowerCase())
        if (screen) {
          event.preventDefault()
          void navigate(screen.path)
        }
        return
      }
      if (event.key === 'g') waiting = Date.now()
      else if (event.key === '?') setOverlay('keys')
      else if (event.key === 'n') void navigate('/cases/new')
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [navigate])
  return (
    <div className={styles.frame}>
      <a className={styles.skip} href="#page">
        Skip to the screen
      </a>
      <nav className={styles.rail} aria-label="Screens" data-more={more || undefined}>
        <Link to="/" className={styles.brand} aria-label="Verimend, to the bench">
          <img src="/mark.svg" width={30} height={30} alt="" />
        </Link>
        {SCREENS.map(({ path, label, key, atHand, icon: Icon }) => (
          <NavLink
            key={path}
            to={path}
            end={path === '/'}
            title={`g ${key}`}
            className={atHand ? undefined : styles.indrawer}
            onClick={() => setMore(false)}
          >
            <Icon size={19} strokeWidth={1.7} aria-hidden="true" />
            {label}
          </NavLink>
        ))}
        <span className={styles.spacer} />
        <button
          type="button"
          className={clsx(styles.railword, styles.morebutton)}
          onClick={() => setMore(!more)}
          aria-expanded={more}
        >
          <Menu size={19} strokeWidth={1.7} aria-hidden="true" />
          More
        </button>
        <div className={styles.tools}>
          <button
            type="button"
            className={clsx(styles.railword, styles.wideonly)}
            onClick={() => setOverlay('phone')}
            title="This screen on the phone"
          >
            <Smartphone size={18} strokeWidth={1.7} aria-hidden="true" />
            Phone
          </button>
          <NavLink
            to="/storeroom"
            className={styles.indrawer}
            onClick={() => setMore(false)}
            title="Backups, what was put away, licences"
          >
            <Archive size={18} strokeWidth={1.7} aria-hidden="true" />
            Storeroom
          </NavLink>
          <button
            type="button"
            className={clsx(styles.railword, styles.indrawer)}
            onClick={toggle}
            aria-label={mode === 'dark' ? 'Light theme' : 'Dark theme'}
          >
            {mode === 'dark' ? (
              <Sun size={18} strokeWidth={1.7} aria-hidden="true" />
            ) : (
              <Moon size={18} strokeWidth={1.7} aria-hidden="true" />
            )}
            {mode === 'dark' ? 'Light' : 'Dark'}
          </button>
          {session.data?.needed && (
            <button
              type="button"
              className={clsx(styles.railword, styles.indrawer)}
              onClick={() => void access.leave()}
            >
              <LogOut size={18} strokeWidth={1.7} aria-hidden="true" />
              Sign out
            </button>
          )}
        </div>
      </nav>
      <PairStrip />
      <main className={styles.page} id="page" tabIndex={-1}>
        <Suspense fallback={null}>
          <Outlet />
        </Suspense>
      </main>
      {overlay === 'search' && (
        <CommandSearch onClose={() => setOverlay(null)} onKeys={() => setOverlay('keys')} />
      )}
      {overlay === 'keys' && <KeyList onClose={() => setOverlay(null)} />}
      {overlay === 'phone' && <OnPhone onClose={() => setOverlay(null)} />}
    </div>
  )
}
