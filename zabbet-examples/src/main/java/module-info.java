/** The alpine-huts application and its story. */
module dev.zabbet.examples {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive dev.zabbet.jdbc;
    requires dev.zabbet.files;
    requires com.fasterxml.jackson.jr.ob;
    requires jdk.httpserver;

    exports dev.zabbet.examples.http;
    exports dev.zabbet.examples.huts;
    exports dev.zabbet.examples.story;

    opens dev.zabbet.examples.huts to
            dev.zabbet.core;
    opens db;
}
