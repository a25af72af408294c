package dev.zabbet.jdbc;

import java.util.regex.Pattern;

/** JDBC URLs in messages. */
final class JdbcUrl {
    private static final Pattern SECRET = Pattern.compile("(?i)([?&;](?:user|username|password|pwd|passwd)=)[^&;]*");
    private static final Pattern USER_INFO = Pattern.compile("//[^/@\\s]*@");

    private JdbcUrl() {}

    /** Returns the URL without user and password. */
    static String shown(String url) {
        return USER_INFO.matcher(SECRET.matcher(url).replaceAll("$1…")).replaceAll("//");
    }

    static String driverHint(String url) {
        String driver = url.startsWith("jdbc:h2:")
                ? "com.h2database:h2"
                : url.startsWith("jdbc:postgresql:")
                        ? "org.postgresql:postgresql"
                        : url.startsWith("jdbc:mariadb:")
                                ? "org.mariadb.jdbc:mariadb-java-client"
                                : url.startsWith("jdbc:sqlite:") ? "org.xerial:sqlite-jdbc" : "";
        return driver.isEmpty() ? " A JDBC URL begins with jdbc: and the database's name." : " Add " + driver + ".";
    }
}
