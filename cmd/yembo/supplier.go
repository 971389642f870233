package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"time"

	"yembo/shop/demo"
	"yembo/standin/supplier"
	"yembo/web"
)

type supplierCmd struct {
	Addr  string `default:"127.0.0.1:8424" help:"Address to listen on, loopback only."`
	Fault string `enum:",slow,down,dearer,gone,nonsense" default:"" help:"slow, down, dearer, gone or nonsense; POST /fault?is=…"`
}

func (c *supplierCmd) Run(ctx context.Context) error {
	host, _, err := net.SplitHostPort(c.Addr)
	if err != nil || !web.Loopback(host) {
		return fmt.Errorf("--addr %s: an address on this machine such as 127.0.0.1:8424 is expected", c.Addr)
	}
	data, err := demo.Load(0)
	if err != nil {
		return err
	}
	service := supplier.New(data.Parts.Parts, data.Parts.Currency)
	service.Switch(c.Fault)
	l, err := net.Listen("tcp", c.Addr)
	if err != nil {
		return err
	}
	fmt.Printf("The simulated supplier is at http://%s (Ctrl-C stops it)\n", l.Addr())
	server := &http.Server{Handler: service, ReadHeaderTimeout: 5 * time.Second}
	go func() {
		<-ctx.Done()
		server.Close()
	}()
	if err := server.Serve(l); err != http.ErrServerClosed {
		return err
	}
	return nil
}
