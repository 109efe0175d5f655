import { Button, Collapse, Form, Input, Modal } from 'antd'
import { useState, useSyncExternalStore } from 'react'
import { Link } from 'react-router'
import { type Here, useHere, useNewName, useOwnPassword, usePick, useSignIn, useSignOut } from '../api/people'
import { who } from './who'
import { Problem } from '../shared/Problem'

/** Who works with this page; a touch changes it. */
export function Who() {
  const here = useHere().data
  if (!here) return null
  return (
    <Button onClick={who.ask} className="who" title="Who works with this page">
      {here.me?.role === 'reader' ? <ReadsOnly name={here.me.name} /> : (here.me?.name ?? 'Who are you?')}
    </Button>
  )
}

function ReadsOnly({ name }: { name: string }) {
  return (
    <span className="reads-only">
      {name}
      <small>reads only</small>
    </span>
  )
}

/** The question who it is, over whatever page is open. */
export function WhoAsked() {
  const here = useHere().data
  const asked = useSyncExternalStore(who.subscribe, who.asked)
  if (!here) return null
  return (
    <Modal
      title={here.way === 'pick' ? 'Who are you?' : 'Sign in'}
      open={asked && (here.way === 'pick' || here.me !== null)}
      onCancel={who.done}
      footer={null}
      destroyOnHidden
    >
      {here.way === 'pick' ? <Names here={here} /> : <Leave here={here} />}
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
        <Button
          key={person.id}
          size="large"
          type={person.id === here.me?.id ? 'primary' : 'default'}
          loading={pick.isPending && pick.variables === person.id}
          onClick={() => pick.mutate(person.id)}
        >
          {person.name}
        </Button>
      ))}
      <div className="name-new">
        <Input
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          onPressEnter={submit}
          placeholder="another name"
          aria-label="Another name"
          autoFocus={here.people.length === 0}
        />
        <Button onClick={submit} disabled={!name.trim()} loading={add.isPending}>
          Add
        </Button>
      </div>
      {(pick.error ?? add.error) && <Problem error={(pick.error ?? add.error) as Error} />}
      <ToPeople here={here} />
    </div>
  )
}

/** A foreman's way to the accounts. */
function ToPeople({ here }: { here: Here }) {
  if (here.me?.role !== 'foreman') return null
  return (
    <Link to="/people" onClick={who.done}>
      Who works here: add and change people
    </Link>
  )
}

function OwnPassword() {
  const set = useOwnPassword()
  if (set.isSuccess) return <p role="status">Your password is changed. Your other sessions have ended.</p>
  return (
    <Collapse
      ghost
      items={[
        {
          key: 'password',
          label: 'Change my password',
          children: (
            <Form layout="vertical" onFinish={(typed: { old: string; new: string }) => set.mutate(typed)}>
              <Form.Item
                label="Password until now"
                name="old"
                rules={[{ required: true, message: 'Type the password until now.' }]}
              >
                <Input.Password autoComplete="current-password" />
              </Form.Item>
              <Form.Item
                label="New password"
                name="new"
                rules={[{ required: true, message: 'Type the new password.' }]}
              >
                <Input.Password autoComplete="new-password" />
              </Form.Item>
              {set.error && <Problem error={set.error} />}
              <Button htmlType="submit" loading={set.isPending}>
                Change it
              </Button>
            </Form>
          ),
        },
      ]}
    />
  )
}

function Leave({ here }: { here: Here }) {
  const leave = useSignOut()
  return (
    <div className="names">
      <p>You are signed in as {here.me?.name}.</p>
      <Button size="large" loading={leave.isPending} onClick={() => leave.mutate(undefined, { onSuccess: who.done })}>
        Sign out
      </Button>
      {leave.error && <Problem error={leave.error} />}
      <ToPeople here={here} />
      <OwnPassword />
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
