import { createBrowserRouter, type RouteObject } from 'react-router'
import { ahead } from './api/ahead'
import { SCREENS, type Load } from './screens'

/** The first diagnosis need not wait for its worker to start. */
const warmUp = () => void import('./workers/compute').then((workers) => workers.warmUp())

/** A screen at its address: its code and what it will ask of the server are sent for together. */
const screen = (path: string, load: Load, ask?: (id: string) => void): RouteObject => ({
  path,
  lazy: async () => ({ Component: (await load()).default }),
  loader({ params }) {
    ask?.(params.id ?? '')
    return null
  },
  shouldRevalidate: ({ currentParams, nextParams }) => currentParams.id !== nextParams.id,
})

/**
 * All addresses. It is made before the interface's library is there, so that the first screen's code and
 * data are on their way meanwhile.
 */
export const router = createBrowserRouter([
  {
    path: '/',
    lazy: async () => {
      const [{ Frame }, { ErrorBoundary }] = await Promise.all([
        import('./frame/Frame'),
        import('./frame/ErrorBoundary'),
      ])
      return { Component: Frame, ErrorBoundary }
    },
    loader() {
      ahead.everywhere()
      return null
    },
    shouldRevalidate: () => false,
    HydrateFallback: () => null,
    children: [
      {
        // a screen that fails leaves the frame as it is
        lazy: async () => ({ ErrorBoundary: (await import('./frame/ErrorBoundary')).ErrorBoundary }),
        children: [
          ...SCREENS.map(({ path, load, ask }) => screen(path.slice(1), load, ask)),
          // what stands behind a screen
          screen('storeroom', () => import('./storeroom/Storeroom')),
          screen('cases/new', () => import('./cases/NewCase')),
          screen(
            'cases/:id',
            () => import('./cases/CaseScreen'),
            (id) => {
              ahead.case(id)
              warmUp()
            },
          ),
          screen('trials/new/:piece', () => import('./trials/PlanTrial'), ahead.newTrial),
          screen('measure/:id', () => import('./measure/MeasurementPage')),
          screen('parts/:id', () => import('./parts/PartPage'), ahead.part),
          screen('trials/:id', () => import('./trials/TrialPage'), ahead.trial),
          screen('trials/:id/read', () => import('./trials/ReadTrial'), ahead.trial),
          screen('prints/:id', () => import('./prints/PrintPage')),
          screen('shelf/:id', () => import('./shelf/FilamentForm'), ahead.shelf),
          screen('machines/:id', () => import('./machines/MachineForm'), ahead.machines),
          screen('handbook/:chapter', () => import('./handbook/Handbook')),
          screen('*', () => import('./frame/NotFound')),
        ],
      },
    ],
  },
])
