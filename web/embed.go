// Package web holds the built front end, to be carried in the binary.
package web

import (
	"embed"
	"io/fs"
	"net/http"
)

//go:embed all:dist
var dist embed.FS

// Files are the built pages; index.html is missing where nothing was built.
func Files() http.FileSystem {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is part of the binary
	}
	return http.FS(sub)
}
