package main

import (
	"os"
	"testing"
)

// With this variable set, the tests are the program itself: nothing has to be linked a second time to run it in processes of its own.
const asProgram = "ZM_TEST_PROGRAM"

func TestMain(m *testing.M) {
	if os.Getenv(asProgram) != "" {
		_ = os.Unsetenv(asProgram) // the processes that it starts are what they are
		main()
		return
	}
	os.Exit(m.Run())
}
