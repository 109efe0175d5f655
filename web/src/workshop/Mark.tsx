import { Button, Upload } from 'antd'
import { useSetMark } from '../api/workshop'
import { Problem } from '../shared/Problem'

/** The picture at the head of the papers; it is stored at once. */
export function Mark({ mark }: { mark: string | null }) {
  const set = useSetMark()
  const choose = (file: File) => {
    set.mutate(file)
    return false // it is sent here, not by the upload itself
  }
  return (
    <div className="paper-mark">
      {mark ? (
        <img src={`/api/workshop/mark.png?${mark}`} alt="The mark on the papers" />
      ) : (
        <p className="muted">No mark yet: a picture, PNG or JPEG, stands at the head of the papers.</p>
      )}
      <span>
        <Upload accept="image/png,image/jpeg,image/webp" showUploadList={false} beforeUpload={choose}>
          <Button loading={set.isPending}>{mark ? 'Another mark' : 'Choose a mark'}</Button>
        </Upload>
        {mark && (
          <Button type="text" onClick={() => set.mutate(null)}>
            Take it away
          </Button>
        )}
      </span>
      {set.error && <Problem error={set.error} />}
    </div>
  )
}
