import { Button, Image, Upload } from 'antd'

interface PhotoStripProps {
  /** Of what the photos are. */
  of: string
  numbers: readonly number[]
  sending: boolean
  onAdd: (photo: File) => void
}

/** Photos of something, small, and a way to add one. */
export function PhotoStrip({ of, numbers, sending, onAdd }: PhotoStripProps) {
  const add = (file: File) => {
    onAdd(file)
    return false // it is sent here, not by the upload itself
  }
  return (
    <div className="step-photos">
      {numbers.map((number) => (
        <Image key={number} height={72} alt={`Photo of: ${of}`} src={`/api/photos/${number}.jpg`} />
      ))}
      <Upload accept="image/*" showUploadList={false} beforeUpload={add}>
        <Button loading={sending} aria-label={`Photo of: ${of}`}>
          Photo
        </Button>
      </Upload>
    </div>
  )
}
