package dev.zabbet.serve;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.HexFormat;

/**
 * How a {@link StageServer} is run. Immutable.
 *
 * @param port the port on 127.0.0.1; 0 for any that is free
 * @param token what each request has to carry; at least 16 printable characters of ASCII without blanks
 * @param mostStages how many stages may be open at a time, from 1
 * @param idle after which time without a request a stage is rewound and closed, because its client is taken for gone
 * @param patience how long a request waits: for a database that another stage holds, and for an answer
 * @param mostBytes the largest body of a request, in bytes
 */
public record ServeSettings(int port, String token, int mostStages, Duration idle, Duration patience, int mostBytes) {
    private static final int TOKEN_BYTES = 24;

    /**
     * Checks the settings.
     *
     * @param port the port
     * @param token the token
     * @param mostStages how many stages
     * @param idle the time after which a stage is closed
     * @param patience how long a request waits
     * @param mostBytes the largest body
     *
     * @throws ZabbetException if one is not as it is described
     */
    public ServeSettings {
        Words.notNull(token, "token", "ServeSettings");
        Words.notNull(idle, "idle", "ServeSettings");
        Words.notNull(patience, "patience", "ServeSettings");
        if (port < 0 || port > 65_535) {
            throw new ZabbetException("A port is a number from 0 to 65535; it was " + port + ".");
        }
        if (!token.matches("[!-~]{16,}")) {
            throw new ZabbetException(
                    "The token has at least 16 characters, printable ones of ASCII without blanks; it has "
                            + Words.count(token.length(), "character") + ".");
        }
        if (mostStages < 1 || mostBytes < 1) {
            throw new ZabbetException("At least one stage and one byte have to be allowed; it was " + mostStages
                    + " and " + mostBytes + ".");
        }
        requirePositive("idle", idle);
        requirePositive("patience", patience);
    }

    private static void requirePositive(String name, Duration time) {
        if (time.isNegative() || time.isZero()) {
            throw new ZabbetException("The time '" + name + "' has to be longer than nothing; it was " + time + ".");
        }
    }

    /** {@return a free port, a new token, 16 stages, ten minutes, half a minute, and 16 MiB} */
    public static ServeSettings usual() {
        byte[] random = new byte[TOKEN_BYTES];
        new SecureRandom().nextBytes(random);
        return new ServeSettings(
                0,
                HexFormat.of().formatHex(random),
                16,
                Duration.ofMinutes(10),
                Duration.ofSeconds(30),
                16 * 1024 * 1024);
    }

    /**
     * {@return the same on a port}
     *
     * @param other the port; 0 for any that is free
     */
    public ServeSettings onPort(int other) {
        return new ServeSettings(other, token, mostStages, idle, patience, mostBytes);
    }

    /**
     * {@return the same with another token}
     *
     * @param other the token
     */
    public ServeSettings withToken(String other) {
        return new ServeSettings(port, other, mostStages, idle, patience, mostBytes);
    }

    /**
     * {@return the same, with another time after which a stage is closed that nobody uses}
     *
     * @param other the time
     */
    public ServeSettings closingAfter(Duration other) {
        return new ServeSettings(port, token, mostStages, other, patience, mostBytes);
    }

    /**
     * {@return the same, with another time that requests wait}
     *
     * @param other the time
     */
    public ServeSettings waiting(Duration other) {
        return new ServeSettings(port, token, mostStages, idle, other, mostBytes);
    }

    /**
     * {@return the same, with another number of stages at a time}
     *
     * @param other the number
     */
    public ServeSettings withStages(int other) {
        return new ServeSettings(port, token, other, idle, patience, mostBytes);
    }

    /** {@return the settings without the token, which is a secret} */
    @Override
    public String toString() {
        return "ServeSettings[port=" + port + ", mostStages=" + mostStages + ", idle=" + idle + ", patience=" + patience
                + ", mostBytes=" + mostBytes + "]";
    }
}
