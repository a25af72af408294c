/** The zabbet command. */
module dev.zabbet.cli {
    requires static org.jspecify;
    requires dev.zabbet.core;
    requires dev.zabbet.jdbc;
    requires dev.zabbet.files;
    requires dev.zabbet.examples;
    requires info.picocli;

    opens dev.zabbet.cli to
            info.picocli;
}
