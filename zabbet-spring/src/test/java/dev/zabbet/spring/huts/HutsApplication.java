package dev.zabbet.spring.huts;

import org.springframework.boot.autoconfigure.SpringBootApplication;

/** The huts application. */
@SpringBootApplication
public class HutsApplication {}
