package dev.zabbet.jdbc.internal.connect;

import dev.zabbet.internal.text.Secrets;
import java.util.regex.Pattern;

/** JDBC URLs in messages. */
public final class JdbcUrl {
    private static final Pattern SECRET = Pattern.compile(
            "(?i)([?&;])(?:user|username|\\w*(?:password|passwd|pwd|passphrase|secret|credentials?|api_?key|token))=[^&;]*");
    private static final Pattern USER_INFO = Pattern.compile("//[^/@\\s]*@");

    /** What a parameter that was taken out leaves: the first separator counts. */
    private static final Pattern SEPARATORS = Pattern.compile("([?&;])[&;]");

    private JdbcUrl() {}

    /** Returns the URL without user and password. */
    public static String shown(String url) {
        String bare = SECRET.matcher(url).replaceAll("$1");
        while (SEPARATORS.matcher(bare).find()) {
            bare = SEPARATORS.matcher(bare).replaceAll("$1");
        }
        return Secrets.hidden(USER_INFO.matcher(bare.replaceAll("[?&;]+$", "")).replaceAll("//"));
    }

    static String driverHint(String url) {
        String driver;
        if (url.startsWith("jdbc:h2:")) {
            driver = "com.h2database:h2";
        } else if (url.startsWith("jdbc:postgresql:")) {
            driver = "org.postgresql:postgresql";
        } else if (url.startsWith("jdbc:mariadb:")) {
            driver = "org.mariadb.jdbc:mariadb-java-client";
        } else if (url.startsWith("jdbc:sqlite:")) {
            driver = "org.xerial:sqlite-jdbc";
        } else {
            driver = "";
        }
        return driver.isEmpty() ? " A JDBC URL begins with jdbc: and the database's name." : " Add " + driver + ".";
    }
}
