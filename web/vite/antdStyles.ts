import { createHash } from 'node:crypto'
import { extractStyle } from '@ant-design/static-style-extract'
import * as antd from 'antd'
import { ConfigProvider } from 'antd'
import { createElement } from 'react'
import type { Plugin } from 'vite'

/** The interface's library keeps a component's rules in a folder of the component's name. */
const STYLE_OF = /[\\/]antd[\\/](?:es|lib)[\\/]([\w-]+)[\\/]style[\\/]/

/** Rules for every link of the page; the library means those in its own components. */
const BARE_LINKS = /(?<=\}|^)a(?:\[\w+\]|:[\w-]+)?(?:,a:[\w-]+)*\{[^}]*\}/g

/** "input-number" to what is exported of it; nothing for folders that are no component. */
function exportedNames(folder: string): string[] {
  if (folder === 'grid') return ['Row', 'Col']
  const pascal = folder.replace(/(?:^|-)(\w)/g, (_, letter: string) => letter.toUpperCase())
  return [pascal, folder].filter((name) => name in antd)
}

/**
 * The rules of the interface's library as one stylesheet, of those components that are in the bundle: made once,
 * here, and not again by every browser at every start. Goes with `zeroRuntime` in the theme.
 */
export function antdStyles(): Plugin {
  let file: string | null = null
  return {
    name: 'antd-styles',
    apply: 'build',
    enforce: 'pre',
    generateBundle(_, bundle) {
      const modules = Object.values(bundle).flatMap((chunk) =>
        chunk.type === 'chunk' ? Object.entries(chunk.modules) : [],
      )
      const folders = new Set(
        modules.flatMap(([id, { renderedLength }]) => {
          const [, folder] = STYLE_OF.exec(id) ?? []
          return folder && renderedLength > 0 ? [folder] : []
        }),
      )
      const includes = [...folders].flatMap(exportedNames)
      const source = extractStyle({
        includes,
        customTheme: (node) => createElement(ConfigProvider, { theme: { hashed: false } }, node),
      }).replace(BARE_LINKS, '')
      const hash = createHash('sha256').update(source).digest('base64url').slice(0, 8)
      file = `assets/antd-${hash}.css`
      this.emitFile({ type: 'asset', fileName: file, source })
    },
    transformIndexHtml: {
      order: 'post',
      handler: () =>
        file
          ? [{ tag: 'link', attrs: { rel: 'stylesheet', href: `/${file}` }, injectTo: 'head-prepend' }]
          : [],
    },
  }
}
