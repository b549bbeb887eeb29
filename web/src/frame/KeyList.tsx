import { Modal } from 'antd'
import { SCREENS } from '../screens'
import { OTHER_KEYS } from './keys'
import ui from '../components/ui.module.css'

export default function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <Modal open title="Keys" footer={null} onCancel={onClose} width={480}>
      <table className={ui.plain}>
        <tbody>
          {SCREENS.map((s) => (
            <tr key={s.key}>
              <td className={ui.figure}>g {s.key}</td>
              <td>{s.label}</td>
            </tr>
          ))}
          {OTHER_KEYS.map((k) => (
            <tr key={k.keys}>
              <td className={ui.figure}>{k.keys}</td>
              <td>{k.what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  )
}
