package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"strconv"
	"sync"
	"syscall"
	"time"
)

// limits hold a process: none runs through a shell, none reaches the network.
type limits struct {
	wall   time.Duration
	cpu    time.Duration
	memory int64 // bytes of address space; 0 for no limit
	data   int64 // bytes that it may write to; 0 for no limit
}

// errTooLong and errMissing are told apart by callers to say what to do.
var (
	errTooLong = errors.New("it took too long")
	errMissing = errors.New("the program is not installed")
)

// offline is the command prefix that cuts a process off the network: a network
// namespace of its own, where the system lets us make one.
var offline = sync.OnceValue(func() []string {
	for _, prefix := range [][]string{{"unshare", "--net"}, {"unshare", "--net", "--map-root-user"}} {
		if exec.Command(prefix[0], append(prefix[1:], "true")...).Run() == nil {
			return prefix
		}
	}
	return nil
})

// run runs a program within limits and gives what it writes to standard output.
// When ctx ends, the program and all that it started are killed at once.
func run(ctx context.Context, l limits, dir string, env []string, stdin io.Reader, name string, args ...string) ([]byte, error) {
	if _, err := exec.LookPath(name); err != nil {
		return nil, fmt.Errorf("%s: %w", name, errMissing)
	}
	inner, cancel := context.WithTimeout(ctx, l.wall)
	defer cancel()
	line := append([]string{}, offline()...)
	line = append(line, "prlimit", "--cpu="+strconv.Itoa(int(l.cpu.Seconds())), "--core=0")
	if l.memory > 0 {
		line = append(line, "--as="+strconv.FormatInt(l.memory, 10))
	}
	if l.data > 0 {
		line = append(line, "--data="+strconv.FormatInt(l.data, 10))
	}
	line = append(line, "--", name)
	line = append(line, args...)
	c := exec.CommandContext(inner, line[0], line[1:]...)
	c.Dir, c.Env, c.Stdin = dir, env, stdin
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	c.Cancel = func() error { return syscall.Kill(-c.Process.Pid, syscall.SIGKILL) }
	c.WaitDelay = time.Second
	var stdout, stderr bytes.Buffer
	c.Stdout, c.Stderr = &stdout, &stderr
	err := c.Run()
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case inner.Err() != nil:
		return nil, errTooLong
	case err != nil:
		return nil, fmt.Errorf("%s: %w: %s", name, err, bytes.TrimSpace(stderr.Bytes()[max(0, stderr.Len()-400):]))
	}
	return stdout.Bytes(), nil
}

// sparse is the environment of a process: nothing of ours but where programs are.
func sparse(home string) []string {
	return []string{
		"PATH=/usr/local/bin:/usr/bin:/bin", "HOME=" + home, "LC_ALL=C.UTF-8", "OMP_THREAD_LIMIT=1",
		"SAL_USE_VCLPLUGIN=svp", "http_proxy=http://127.0.0.1:9", "https_proxy=http://127.0.0.1:9",
	}
}
