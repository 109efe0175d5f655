import { Button, Form, Input, Modal } from 'antd'
import { useState, useSyncExternalStore } from 'react'
import { type Here, useHere, useNewName, usePick, useSignIn, useSignOut } from '../api/people'
import { who } from '../model/who'
import { Problem } from './Problem'

/** Who works with this page; a touch changes it. */
export function Who() {
  const here = useHere().data
  if (!here) return null
  return (
    <Button onClick={who.ask} className="who" title="Who works with this page">
      {here.me ? here.me.name : 'Who are you?'}
    </Button>
  )
}

/** The question who it is, over whatever page is open. */
export function WhoAsked() {
  const here = useHere().data
  const asked = useSyncExternalStore(who.subscribe, who.asked)
  if (!here) return null
  return (
    <Modal title={here.way === 'pick' ? 'Who are you?' : 'Sign in'} open={asked && (here.way === 'pick' || here.me !== null)} onCancel={who.done} footer={null} destroyOnHidden>
      {here.way === 'pick' ? <Names here={here} /> : <Leave name={here.me?.name ?? ''} />}
    </Modal>
  )
}

function Names({ here }: { here: Here }) {
  const pick = usePick()
  const add = useNewName()
  const [name, setName] = useState('')
  const submit = () => name.trim() && add.mutate(name.trim())
  return (
    <div className="names">
      <p className="muted">Every reading is noted with your name.</p>
      {here.people.map((person) => (
        <Button key={person.id} size="large" type={person.id === here.me?.id ? 'primary' : 'default'} loading={pick.isPending && pick.variables === person.id} onClick={() => pick.mutate(person.id)}>
          {person.name}
        </Button>
      ))}
      <div className="name-new">
        <Input value={name} maxLength={60} onChange={(event) => setName(event.target.value)} onPressEnter={submit} placeholder="another name" aria-label="Another name" autoFocus={here.people.length === 0} />
        <Button onClick={submit} disabled={!name.trim()} loading={add.isPending}>
          Add
        </Button>
      </div>
      {(pick.error ?? add.error) && <Problem error={(pick.error ?? add.error) as Error} />}
    </div>
  )
}

function Leave({ name }: { name: string }) {
  const leave = useSignOut()
  return (
    <div className="names">
      <p>You are signed in as {name}.</p>
      <Button size="large" loading={leave.isPending} onClick={() => leave.mutate(undefined, { onSuccess: who.done })}>
        Sign out
      </Button>
    </div>
  )
}

/** Where people sign in, nothing else is shown before. */
export function SignInPage() {
  const enter = useSignIn()
  return (
    <main className="sign-in">
      <h1>Dianoia</h1>
      <Form layout="vertical" onFinish={(typed: { name: string; password: string }) => enter.mutate(typed)}>
        <Form.Item label="Name" name="name" rules={[{ required: true, message: 'Type your name.' }]}>
          <Input autoFocus autoComplete="username" maxLength={60} />
        </Form.Item>
        <Form.Item label="Password" name="password" rules={[{ required: true, message: 'Type your password.' }]}>
          <Input.Password autoComplete="current-password" />
        </Form.Item>
        <Button type="primary" htmlType="submit" block loading={enter.isPending}>
          Sign in
        </Button>
      </Form>
      {enter.error && <Problem error={enter.error} />}
    </main>
  )
}
