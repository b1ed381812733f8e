package main

import (
	"context"
	"crypto/tls"
	"fmt"
	"io/fs"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/spf13/cobra"

	"perigyre/core/render/bvh"
	"perigyre/demo"
	"perigyre/server"
	"perigyre/store"
	"perigyre/web"
)

func serveCommand() *cobra.Command {
	c := &cobra.Command{Use: "serve", Short: "Serve the application", Args: cobra.NoArgs}
	run := serveFlags(c, "data")
	c.RunE = func(c *cobra.Command, _ []string) error { return run(c.Context(), nil) }
	return c
}

func demoCommand() *cobra.Command {
	c := &cobra.Command{Use: "demo", Short: "Serve the application with the demonstration project", Args: cobra.NoArgs}
	run := serveFlags(c, filepath.Join("data", "demo"))
	model := c.Flags().String("write-model", "", "write the demonstration model to this GLB file and do nothing else")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if *model == "" {
			return run(c.Context(), func(ctx context.Context, st *server.Studio) error {
				_, err := st.Demo(ctx)
				return err
			})
		}
		glb, err := demo.Lantern()
		if err != nil {
			return err
		}
		return store.WriteFile(*model, glb)
	}
	return c
}

// serveFlags adds the flags of a server and returns what starts it. It stays up until the context
// ends.
func serveFlags(c *cobra.Command, folder string) func(context.Context, func(context.Context, *server.Studio) error) error {
	data := c.Flags().String("data", folder, "folder for projects and models")
	out := c.Flags().String("out", "", "folder for rendered frames (the folder renders in the data folder)")
	listen := c.Flags().String("listen", "127.0.0.1:7741", "address and port")
	token := c.Flags().String("token", "", "secret that requests must bring; needed to listen beyond this machine")
	cert := c.Flags().String("cert", "", "certificate for TLS, a PEM file; with --key")
	key := c.Flags().String("key", "", "private key of the certificate, a PEM file")
	place := placeFlags(c)
	deliver := deliverFlags(c)
	limits := limitFlags(c)
	return func(ctx context.Context, prepare func(context.Context, *server.Studio) error) error {
		host, port, err := net.SplitHostPort(*listen)
		if err != nil {
			return input{fmt.Errorf("--listen %s is not an address and a port such as 127.0.0.1:7741", *listen)}
		}
		ip := net.ParseIP(host)
		loopback := host == "localhost" || ip != nil && ip.IsLoopback()
		if !loopback && *token == "" {
			return input{fmt.Errorf("listening on %s, beyond this machine, needs a --token, so that not everybody can change and delete what is here", *listen)}
		}
		ln, err := net.Listen("tcp", *listen)
		if err != nil {
			return fmt.Errorf("it cannot listen on %s: %w; choose another with --listen", *listen, err)
		}
		defer ln.Close()
		_, port, _ = net.SplitHostPort(ln.Addr().String()) // port 0 asks for any free one
		address := "http://" + net.JoinHostPort(host, port)
		if *cert != "" || *key != "" {
			secure, err := certified(*cert, *key, "--cert and --key")
			if err != nil {
				return err
			}
			ln = tls.NewListener(ln, secure)
			address = "https://" + net.JoinHostPort(host, port)
		} else if !loopback {
			fmt.Fprintln(os.Stderr, "Without --cert and --key all that goes to and fro, the token too, can be read on the way: listen like this in a network that you trust alone.")
		}
		release, err := store.Own(*data, fmt.Sprintf("the server at %s (process %d)", address, os.Getpid()))
		if err != nil {
			return err
		}
		defer release()
		store.RemoveUnfinished(filepath.Join(*data, "blobs"))
		s, err := store.Open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		if *out == "" {
			*out = filepath.Join(*data, "renders")
		}
		drive, err := deliver()
		if err != nil {
			return err
		}
		at, err := place(filepath.Join(*data, "queue"))
		if err != nil {
			return err
		}
		st, err := server.OpenStudio(s, *out, limits(), at)
		if err != nil {
			return err
		}
		defer st.Close()
		if drive != nil {
			st.DeliverTo(drive, c.Flags().Lookup("deliver").Value.String())
		}
		st.Demo = func(ctx context.Context) (string, error) { return prepareDemo(ctx, st, s) }
		if prepare != nil {
			if err := prepare(ctx, st); err != nil {
				return err
			}
		}
		var hosts []string
		if loopback {
			for _, h := range []string{"127.0.0.1", "localhost", "[::1]"} {
				hosts = append(hosts, h+":"+port)
			}
		}
		front := web.Dist()
		if _, err := fs.Stat(front, "index.html"); err != nil {
			fmt.Fprintln(os.Stderr, "The front end has not been built: run make build.")
		}
		app := server.App(st, front, hosts, *token)
		fmt.Fprintf(os.Stderr, "Rays are traced with the kernel: %s\n", bvh.Kernel())
		if *token != "" { // this address logs in
			address += "/?token=" + url.QueryEscape(*token)
		}
		fmt.Printf("Perigyre is at %s\n", address)
		ended := make(chan error, 1)
		go func() { ended <- app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
		select {
		case err := <-ended:
			return err
		case <-ctx.Done():
		}
		st.Close()
		_ = app.ShutdownWithTimeout(3 * time.Second)
		_ = ln.Close() // one that was ended before it began to listen would begin now
		<-ended
		return nil
	}
}
