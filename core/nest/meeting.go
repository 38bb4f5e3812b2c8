package nest

import "sync"

// meeting is where searchers wait for one another; the last to come does what is to be done for all.
type meeting struct {
	mu    sync.Mutex
	come  *sync.Cond
	count int
	here  []*worker
	round int
	do    func([]*worker)
}

func newMeeting(n int) *meeting {
	m := &meeting{count: n}
	m.come = sync.NewCond(&m.mu)
	return m
}

func (m *meeting) gather(w *worker, do func([]*worker)) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.here, m.do = append(m.here, w), do
	if len(m.here) == m.count {
		m.all()
		return
	}
	for round := m.round; round == m.round; {
		m.come.Wait()
	}
}

// leave is for one that comes no more.
func (m *meeting) leave() {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.count--; m.count > 0 && len(m.here) == m.count {
		m.all()
	}
}

func (m *meeting) all() {
	m.do(m.here)
	m.here = m.here[:0]
	m.round++
	m.come.Broadcast()
}
