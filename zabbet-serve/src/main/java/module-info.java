/** Stages over HTTP, and seeds delivered through an application's own API. */
module dev.zabbet.serve {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive dev.zabbet.jdbc;
    requires transitive dev.zabbet.files;
    requires java.net.http;
    requires io.swagger.v3.oas.models;
    requires swagger.parser.v3;
    requires swagger.parser.core;
    requires org.eclipse.jetty.server;
    requires org.eclipse.jetty.http;
    requires org.eclipse.jetty.io;
    requires org.eclipse.jetty.util;
    requires org.snakeyaml.engine;

    exports dev.zabbet.serve;
}
