import { Canvas, useThree } from '@react-three/fiber'
import type { Mesh, Placement } from '@verimend/core/geometry'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import {
  ArrowHelper,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Matrix4,
  ShaderMaterial,
  Vector3,
  type OrthographicCamera,
} from 'three'
import { useMode } from '../theme/mode'
import { PALETTES } from '../theme/theme'
import styles from './parts.module.css'

type Direction = readonly [number, number, number]

/** Flat faces, shaded by how they look at the viewer; hatched where `hangs` is 1. */
const material = (plain: string, ink: string, fault: string) =>
  new ShaderMaterial({
    side: DoubleSide,
    uniforms: {
      plain: { value: new Color(plain) },
      ink: { value: new Color(ink) },
      fault: { value: new Color(fault) },
    },
    vertexShader: `
      attribute float hangs;
      varying float vHangs;
      varying vec3 vView;
      void main() {
        vHangs = hangs;
        vec4 view = modelViewMatrix * vec4(position, 1.0);
        vView = view.xyz;
        gl_Position = projectionMatrix * view;
      }`,
    fragmentShader: `
      uniform vec3 plain;
      uniform vec3 ink;
      uniform vec3 fault;
      varying float vHangs;
      varying vec3 vView;
      void main() {
        vec3 n = normalize(cross(dFdx(vView), dFdy(vView)));
        float light = 0.45 + 0.55 * abs(n.z) + 0.12 * n.y;
        vec3 c = mix(ink, plain, clamp(light, 0.0, 1.0));
        float stripe = step(mod(gl_FragCoord.x + gl_FragCoord.y, 9.0), 3.5);
        c = mix(c, fault, vHangs * (0.25 + 0.65 * stripe));
        gl_FragColor = vec4(c, 1.0);
      }`,
  })

const STEEP = -Math.sin(Math.PI / 4)

function geometryOf(
  { vertices, triangles }: Mesh,
  placement: Placement,
): { geometry: BufferGeometry; radius: number } {
  const m = placement
  const count = triangles.length
  const position = new Float32Array(3 * count)
  const hangs = new Float32Array(count)
  let low = Infinity
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [0, 1, 2].map((k) => vertices[3 * triangles[i] + k])
    position[3 * i] = m[0] * x + m[1] * y + m[2] * z
    position[3 * i + 1] = m[4] * x + m[5] * y + m[6] * z
    position[3 * i + 2] = m[8] * x + m[9] * y + m[10] * z
    low = Math.min(low, position[3 * i + 2])
  }
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (let i = 0; i < count; i += 3) {
    a.fromArray(position, 3 * i)
    b.fromArray(position, 3 * i + 3)
    c.fromArray(position, 3 * i + 6)
    const top = Math.max(a.z, b.z, c.z)
    const up = b.clone().sub(a).cross(c.clone().sub(a)).normalize().z
    if (up < STEEP && top > low + 0.05) hangs.fill(1, i, i + 3)
  }
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(position, 3))
  geometry.setAttribute('hangs', new BufferAttribute(hangs, 1))
  geometry.computeBoundingSphere()
  const { center, radius } = geometry.boundingSphere!
  geometry.translate(-center.x, -center.y, -center.z)
  return { geometry, radius }
}

interface Side {
  azimuth: number
  elevation: number
}

/** Puts a camera where it looks at the middle from a side and a height, with all of a part in sight. */
function lookFrom(
  camera: OrthographicCamera,
  { azimuth, elevation }: Side,
  radius: number,
  side: number,
): void {
  const r = 4 * radius
  camera.up.set(0, 0, 1)
  camera.position.set(
    r * Math.cos(elevation) * Math.sin(azimuth),
    -r * Math.cos(elevation) * Math.cos(azimuth),
    r * Math.sin(elevation),
  )
  camera.near = 0.1
  camera.far = 10 * r
  camera.zoom = side / (2.15 * radius)
  camera.lookAt(0, 0, 0)
  camera.updateProjectionMatrix()
}

function Look({ azimuth, elevation, radius }: Side & { radius: number }) {
  const { camera, size, invalidate } = useThree()
  const side = Math.min(size.width, size.height)
  useEffect(() => {
    lookFrom(camera as OrthographicCamera, { azimuth, elevation }, radius, side)
    invalidate()
  }, [camera, side, azimuth, elevation, radius, invalidate])
  return null
}

/** Turns to the side by so much for a key, radians. */
const KEY_TURN = Math.PI / 12
const HIGHEST = Math.PI / 2 - 0.01

/**
 * A small view of a part in space, as it stands; hatched where it hangs. A drag turns it; with `drawing` a drag draws the way
 * it is loaded.
 */
export default function Turnable({
  mesh,
  placement,
  load,
  drawing,
  onLoad,
}: {
  mesh: Mesh
  placement: Placement
  load: Direction | null
  drawing: boolean
  /** As the part is drawn in its file, of length 1. */
  onLoad: (load: Direction) => void
}) {
  const { mode } = useMode()
  const p = PALETTES[mode]
  const { geometry, radius } = useMemo(() => geometryOf(mesh, placement), [mesh, placement])
  useEffect(() => () => geometry.dispose(), [geometry])
  const surface = useMemo(
    () => material(mode === 'dark' ? '#9aa6a1' : '#d8d4c8', mode === 'dark' ? '#39443f' : '#6d756f', p.fault),
    [mode, p],
  )
  const [look, setLook] = useState({ azimuth: -0.6, elevation: 0.45 })
  const from = useRef<{ x: number; y: number } | null>(null)
  const rotation = useMemo(() => {
    const m = placement
    return new Matrix4().set(m[0], m[1], m[2], 0, m[4], m[5], m[6], 0, m[8], m[9], m[10], 0, 0, 0, 0, 1)
  }, [placement])
  const arrow = useMemo(() => {
    if (!load) return null
    const way = new Vector3(...load).applyMatrix4(rotation).normalize()
    const length = 1.1 * radius
    return new ArrowHelper(
      way,
      way.clone().multiplyScalar(-0.2 * length),
      length,
      p.caution,
      0.25 * length,
      0.14 * length,
    )
  }, [load, rotation, radius, p])
  const turn = (dx: number, dy: number) =>
    setLook(({ azimuth, elevation }) => ({
      azimuth: azimuth - dx,
      elevation: Math.max(-HIGHEST, Math.min(HIGHEST, elevation + dy)),
    }))
  const drawn = (dx: number, dy: number) => {
    if (Math.hypot(dx, dy) < 6) return
    const { azimuth, elevation } = look
    // the picture's own axes in space
    const right = new Vector3(Math.cos(azimuth), Math.sin(azimuth), 0)
    const up = new Vector3(
      -Math.sin(elevation) * Math.sin(azimuth),
      Math.sin(elevation) * Math.cos(azimuth),
      Math.cos(elevation),
    )
    const way = right.multiplyScalar(dx).add(up.multiplyScalar(-dy)).normalize()
    const { x, y, z } = way.applyMatrix4(rotation.clone().invert())
    onLoad([x, y, z].map((v) => Number(v.toFixed(4))) as unknown as Direction)
  }
  const down = (e: PointerEvent<HTMLDivElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    from.current = { x: e.clientX, y: e.clientY }
  }
  const move = (e: PointerEvent<HTMLDivElement>) => {
    if (!from.current || drawing) return
    turn((e.clientX - from.current.x) / 90, (e.clientY - from.current.y) / 90)
    from.current = { x: e.clientX, y: e.clientY }
  }
  const up = (e: PointerEvent<HTMLDivElement>) => {
    if (from.current && drawing) drawn(e.clientX - from.current.x, e.clientY - from.current.y)
    from.current = null
  }
  const onKeyDown = (e: KeyboardEvent) => {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-KEY_TURN, 0],
      ArrowRight: [KEY_TURN, 0],
      ArrowUp: [0, KEY_TURN],
      ArrowDown: [0, -KEY_TURN],
    }
    const way = ways[e.key]
    if (!way) return
    e.preventDefault()
    turn(...way)
  }
  return (
    <div
      className={styles.turnable}
      role="img"
      tabIndex={0}
      aria-label="The part as it stands, hatched where it hangs. Drag or arrow keys turn it."
      data-drawing={drawing || undefined}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onKeyDown={onKeyDown}
    >
      <Canvas orthographic frameloop="demand" dpr={[1, 2]} gl={{ antialias: true, alpha: true }}>
        <Look {...look} radius={radius} />
        <mesh geometry={geometry} material={surface} />
        {arrow && <primitive object={arrow} />}
      </Canvas>
    </div>
  )
}
