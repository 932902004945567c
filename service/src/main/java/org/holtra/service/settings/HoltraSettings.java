package org.holtra.service.settings;

import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.holtra.scripts.ScriptLimits;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * What an installation sets.
 *
 * @param keyFile the file with the key that seals credentials; made if it does not exist
 * @param memoryMegabytes how much content of deliveries may wait in memory; what is more waits in the database only
 * @param welcomeFile where the first start writes the sign-in and the API key it made; null for {@code first-sign-in.json} beside the key file
 * @param scriptTime how much time of a processor one call of a script codec may use
 * @param spoolFolder where arrivals wait on disk while the database is away; null for nowhere, and then senders are told to
 *     come again
 * @param spoolMegabytes how much may wait there
 * @param keepMessagesDays for how many days messages and what became of them are kept; 0 for ever
 * @param keepAttemptsDays for how many days each attempt is kept, with what was sent and answered; 0 for ever
 * @param node what people call this node
 * @param keysOfALane how many keys a lane with memory, or a lookout, remembers at most
 * @param outletsReach how far outlets may reach: {@code public} addresses, {@code private} ones too, or {@code local} ones, of
 *     this machine, as well
 * @param filesFolder the folder beneath which inlets and outlets may use files; null for none
 * @param trustedProxies addresses of the proxies whose forwarded headers are believed; empty for none
 * @param publicAddress by which senders reach the service, such as {@code https://holtra.example}, without a slash at its end;
 *     null if it is not known
 * @param scriptMegabytes how much memory each process that runs scripts may take
 */
@ConfigurationProperties("holtra")
public record HoltraSettings(
        @DefaultValue("holtra.key") Path keyFile,
        @DefaultValue("64") int memoryMegabytes,
        Path welcomeFile,
        @DefaultValue("500ms") Duration scriptTime,
        @DefaultValue("128") int scriptMegabytes,
        @DefaultValue("one") String node,
        Path spoolFolder,
        @DefaultValue("512") int spoolMegabytes,
        @DefaultValue("90") int keepMessagesDays,
        @DefaultValue("30") int keepAttemptsDays,
        @DefaultValue("1000000") int keysOfALane,
        @DefaultValue("public") String outletsReach,
        Path filesFolder,
        @DefaultValue List<String> trustedProxies,
        String publicAddress) {

    public HoltraSettings {
        publicAddress = publicAddress == null || publicAddress.isBlank()
                ? null
                : publicAddress.strip().replaceFirst("/+$", "");
        filesFolder = filesFolder == null || filesFolder.toString().isEmpty() ? null : filesFolder;
    }

    /**
     * After three calls in a row that had to be stopped, a script rests for a minute. A message whose turn does not come for
     * two seconds is read later: its sender waits no longer.
     */
    public ScriptLimits scriptLimits() {
        return scriptLimits(ScriptLimits.Use.INTAKE, Duration.ofSeconds(2));
    }

    /** Where no message waits for the script. */
    public ScriptLimits scriptLimits(ScriptLimits.Use use) {
        return scriptLimits(use, Duration.ofSeconds(30));
    }

    private ScriptLimits scriptLimits(ScriptLimits.Use use, Duration patience) {
        return new ScriptLimits(scriptTime, scriptMegabytes, 3, Duration.ofMinutes(1), patience, use);
    }

    /** Where the first start writes the sign-in and the API key it made. */
    public Path firstSignIn() {
        return welcomeFile == null ? keyFile.resolveSibling("first-sign-in.json") : welcomeFile;
    }
}
