import type { ComponentType } from 'react'
import { createBrowserRouter, type RouteObject } from 'react-router'
import { ahead } from './api/ahead'

/** The first diagnosis need not wait for its worker to start. */
const warmUp = () => void import('./workers/compute').then((workers) => workers.warmUp())

/** A screen at its address: its code and what it will ask of the server are sent for together. */
const screen = (
  path: string,
  load: () => Promise<{ default: ComponentType }>,
  ask?: (id: string) => void,
): RouteObject => ({
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
      screen('', () => import('./bench/Bench'), ahead.bench),
      screen('cases', () => import('./cases/CaseList'), ahead.cases),
      screen('cases/new', () => import('./cases/NewCase')),
      screen(
        'cases/:id',
        () => import('./cases/CaseScreen'),
        (id) => {
          ahead.case(id)
          warmUp()
        },
      ),
      screen('recipes', () => import('./recipes/RecipeScreen')),
      screen('trials', () => import('./trials/TrialsScreen'), ahead.trials),
      screen('trials/new/:piece', () => import('./trials/PlanTrial'), ahead.newTrial),
      screen('trials/:id', () => import('./trials/TrialPage'), ahead.trial),
      screen('trials/:id/read', () => import('./trials/ReadTrial'), ahead.trial),
      screen('paths', () => import('./paths/PathsScreen'), ahead.paths),
      screen('shelf', () => import('./shelf/Shelf'), ahead.shelf),
      screen('shelf/:id', () => import('./shelf/FilamentForm'), ahead.shelf),
      screen('machines', () => import('./machines/Machines'), ahead.machines),
      screen('machines/:id', () => import('./machines/MachineForm'), ahead.machines),
      screen('handbook', () => import('./handbook/Handbook')),
      screen('handbook/:chapter', () => import('./handbook/Handbook')),
      screen('*', () => import('./frame/NotFound')),
    ],
  },
])
