package postgres

import (
	"errors"
	"os"
	"os/exec"
	"os/user"
	"strconv"
	"syscall"
)

// serverOwner is whom the server runs as: PostgreSQL refuses to run as root,
// so root hands over to Debian's postgres user. nil means the caller itself.
func serverOwner() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New(
			"PostgreSQL does not run as root, and there is no user postgres to run it as; install Debian's package " +
				"postgresql, or start as an ordinary user",
		)
	}
	uid, err := strconv.ParseUint(u.Uid, 10, 32)
	if err != nil {
		return nil, err
	}
	gid, err := strconv.ParseUint(u.Gid, 10, 32)
	if err != nil {
		return nil, err
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func (c *Cluster) chown(path string) error {
	if c.owner == nil {
		return nil
	}
	return os.Chown(path, int(c.owner.Uid), int(c.owner.Gid))
}

// canEnter asks, as the server's user, whether a folder can be entered.
func (c *Cluster) canEnter(dir string) bool {
	if c.owner == nil {
		return true
	}
	cmd := exec.Command("test", "-x", dir)
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.owner}
	return cmd.Run() == nil
}
