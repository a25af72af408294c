package dev.zabbet.examples.spring;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;

/** The application. */
@SpringBootApplication
public class HutsApplication {

    /** Starts it. */
    public static void main(String[] arguments) {
        SpringApplication.run(HutsApplication.class, arguments);
    }
}
