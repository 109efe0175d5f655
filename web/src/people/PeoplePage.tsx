import { Button, Form, Input, Modal, Popconfirm, Select, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import { type Account, useAccounts, useAddAccount, useChangeAccount, useHere, useSignIn } from '../api/people'
import { when } from '../shared/when'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'

type Role = Account['role']
const ROLES: { value: Role; label: string }[] = [
  { value: 'technician', label: 'Technician: works on jobs' },
  { value: 'foreman', label: 'Foreman: also changes accounts' },
  { value: 'reader', label: 'Reader: reads, changes nothing' },
]

/** Who works here: for a foreman. */
export function PeoplePage() {
  const accounts = useAccounts()
  const here = useHere().data
  const asks = here?.me?.role === 'foreman' && !here.by_password
  return (
    <main className="people">
      <header className="bench-head">
        <Link to="/" className="quiet">
          ← Jobs
        </Link>
        <h1>Who works here</h1>
        <Corner />
      </header>
      {accounts.error && (
        <section>
          {!asks && <Problem error={accounts.error} />}
          {asks && here.me ? (
            <ForemanPassword name={here.me.name} />
          ) : (
            <p>
              Touch the name in the corner and come in as a foreman. The first one is added on the server:{' '}
              <code>manage.py add_person NAME --role foreman</code>.
            </p>
          )}
        </section>
      )}
      {accounts.isPending && <p className="muted waiting">Fetching the accounts…</p>}
      {accounts.data && <Accounts accounts={accounts.data} signing={here?.way === 'sign-in'} />}
    </main>
  )
}

/** A name that was picked at a bench becomes a foreman's by the password. */
function ForemanPassword({ name }: { name: string }) {
  const enter = useSignIn()
  return (
    <Form
      layout="vertical"
      className="foreman-password"
      onFinish={({ password }: { password: string }) => enter.mutate({ name, password })}
    >
      <p>Accounts, roles and passwords are the foreman’s: a picked name alone does not open them.</p>
      <Form.Item
        label={`Password of ${name}`}
        name="password"
        rules={[{ required: true, message: 'Type the password.' }]}
      >
        <Input.Password autoFocus autoComplete="current-password" />
      </Form.Item>
      {enter.error && <Problem error={enter.error} />}
      <Button type="primary" htmlType="submit" loading={enter.isPending}>
        Open the accounts
      </Button>
    </Form>
  )
}

function Accounts({ accounts, signing }: { accounts: Account[]; signing: boolean }) {
  const change = useChangeAccount()
  const [forWhom, setForWhom] = useState<Account>()
  const askPassword = (item: Account) => {
    change.reset()
    setForWhom(item)
  }
  return (
    <>
      {change.error && !forWhom && <Problem error={change.error} />}
      <Table<Account>
        rowKey="id"
        pagination={false}
        dataSource={accounts}
        rowClassName={(item) => (item.open ? '' : 'shut')}
        columns={columnsOf(change, signing, askPassword)}
      />
      <NewPerson signing={signing} />
      <PasswordDialog change={change} person={forWhom} onClose={() => setForWhom(undefined)} />
    </>
  )
}

type Changing = ReturnType<typeof useChangeAccount>

const columnsOf = (
  change: Changing,
  signing: boolean,
  askPassword: (item: Account) => void,
): TableColumnsType<Account> => [
  {
    title: 'Name',
    dataIndex: 'name',
    width: '30%',
    render: (name: string, item) => (item.open ? <strong>{name}</strong> : <span>{name}, left</span>),
  },
  {
    title: 'Role',
    dataIndex: 'role',
    render: (role: Role, item) => (
      <Select
        aria-label={`What ${item.name} may do`}
        value={role}
        options={ROLES}
        disabled={!item.open}
        onChange={(chosen) => change.mutate({ id: item.id, role: chosen })}
      />
    ),
  },
  {
    title: 'Last came in',
    dataIndex: 'seen',
    render: (seen: string | null) => <span className="figure">{seen ? when(seen) : 'never'}</span>,
  },
  {
    title: '',
    key: 'do',
    align: 'right',
    render: (_, item) => (
      <span className="people-do">
        {(signing || item.role === 'foreman') && item.open && (
          <Button onClick={() => askPassword(item)}>{item.password ? 'New password' : 'Give a password'}</Button>
        )}
        <OpenOrShut item={item} onOpen={(open) => change.mutate({ id: item.id, open })} />
      </span>
    ),
  },
]

function OpenOrShut({ item, onOpen }: { item: Account; onOpen: (open: boolean) => void }) {
  if (!item.open) return <Button onClick={() => onOpen(true)}>Open again</Button>
  return (
    <Popconfirm
      title={`${item.name} may no longer come in.`}
      description="What they measured stays, with their name."
      okText="Shut the account"
      onConfirm={() => onOpen(false)}
    >
      <Button>Shut</Button>
    </Popconfirm>
  )
}

function PasswordDialog(props: { change: Changing; person: Account | undefined; onClose: () => void }) {
  const { change, person, onClose } = props
  const set = ({ password }: { password: string }) => {
    if (person) change.mutate({ id: person.id, password }, { onSuccess: onClose })
  }
  return (
    <Modal
      title={`New password for ${person?.name ?? ''}`}
      open={person !== undefined}
      footer={null}
      destroyOnHidden
      onCancel={onClose}
    >
      <Form layout="vertical" onFinish={set}>
        <p className="muted">Their sessions end. At least ten characters; tell it to them in person.</p>
        <Form.Item label="Password" name="password" rules={[{ required: true, message: 'Type a password.' }]}>
          <Input.Password autoFocus autoComplete="new-password" />
        </Form.Item>
        {change.error && <Problem error={change.error} />}
        <Button type="primary" htmlType="submit" loading={change.isPending}>
          Set it
        </Button>
      </Form>
    </Modal>
  )
}

function NewPerson({ signing }: { signing: boolean }) {
  const add = useAddAccount()
  const [form] = Form.useForm<{ name: string; role: Role; password?: string }>()
  const role = Form.useWatch('role', form)
  return (
    <section aria-label="Someone new" className="person-new">
      <h2>Someone new</h2>
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        initialValues={{ role: 'technician' }}
        onFinish={({ name, role, password }) =>
          add.mutate({ name, role, password: password ?? null }, { onSuccess: () => form.resetFields() })
        }
      >
        <Form.Item label="Name" name="name" rules={[{ required: true, message: 'Type a name.' }]}>
          <Input maxLength={60} autoComplete="off" />
        </Form.Item>
        <Form.Item label="Role" name="role">
          <Select options={ROLES} />
        </Form.Item>
        {(signing || role === 'foreman') && (
          <Form.Item label="First password" name="password" rules={[{ required: true, message: 'Type a password.' }]}>
            <Input.Password autoComplete="new-password" />
          </Form.Item>
        )}
        <Button type="primary" htmlType="submit" loading={add.isPending}>
          Add
        </Button>
      </Form>
      {add.error && <Problem error={add.error} />}
    </section>
  )
}
