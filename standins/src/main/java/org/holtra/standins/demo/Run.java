package org.holtra.standins.demo;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalTime;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import org.holtra.standins.authorization.Authorization;
import org.holtra.standins.authorization.AuthorizationServer;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudServer;
import org.holtra.standins.cloud.Registry;
import org.holtra.standins.desk.Desk;
import org.holtra.standins.desk.DeskServer;
import org.holtra.standins.historian.Historian;
import org.holtra.standins.historian.HistorianServer;
import org.holtra.standins.loggers.WellLoggers;
import org.holtra.standins.mailbox.Mailbox;
import org.holtra.standins.mailbox.MailboxServer;
import org.holtra.standins.mailbox.SmtpServer;
import org.holtra.standins.network.Devices;
import org.holtra.standins.network.Field;
import org.holtra.standins.network.OldDevices;
import org.holtra.standins.network.Sender;
import org.holtra.standins.network.WebhookHeaders;
import org.holtra.standins.plant.PumpHouses;
import org.holtra.standins.weather.Weather;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** Runs all stand-ins in one process, until it is ended. */
@Command(
        name = "run",
        description =
                "Runs the network server, the weather masts, the pump houses, the well loggers, the oldest devices, the works desk, its authorization server, the historian, the device cloud and the mailbox.")
public final class Run implements Callable<Integer> {

    @Option(names = "--holtra", required = true, description = "Address of the service.")
    private URI holtra;

    @Option(names = "--desk-port", defaultValue = "0", description = "Port of the works desk; 0 for a free one.")
    private int deskPort;

    @Option(names = "--historian-port", defaultValue = "0", description = "Port of the historian; 0 for a free one.")
    private int historianPort;

    @Option(
            names = "--authorization-port",
            defaultValue = "0",
            description = "Port of the authorization server; 0 for a free one.")
    private int authorizationPort;

    @Option(names = "--cloud-port", defaultValue = "0", description = "Port of the device cloud; 0 for a free one.")
    private int cloudPort;

    @Option(
            names = "--cloud-file",
            description = "Where the device cloud keeps its devices; without one it forgets them.")
    private Path cloudFile;

    @Option(names = "--mailbox-port", defaultValue = "0", description = "Port of the mailbox's page; 0 for a free one.")
    private int mailboxPort;

    @Option(
            names = "--smtp-port",
            defaultValue = "0",
            description = "Port the mailbox takes mail at; 0 for a free one.")
    private int smtpPort;

    @Option(names = "--broker", required = true, description = "Address of the MQTT broker.")
    private URI broker;

    @Option(names = "--pace", defaultValue = "1", description = "How much faster than usual devices speak.")
    private double pace;

    @Option(
            names = "--weather-from",
            defaultValue = "03:30",
            description = "What the weather's clock says at the start; a frosty hour unless said otherwise.")
    private LocalTime weatherFrom;

    @Option(names = "--weather-speed", defaultValue = "4", description = "Weather hours in an hour.")
    private double weatherSpeed;

    /** What the authorization server knows Holtra by. */
    static final String OWNERS_CLIENT = "holtra";

    private final Secrets secrets = Secrets.fromEnvironment();

    @Override
    public Integer call() throws IOException, InterruptedException {
        Desk desk = new Desk(InstantSource.system());
        Mailbox mailbox = new Mailbox();
        Authorization authorization = new Authorization(InstantSource.system(), new SecureRandom());
        authorization.client(OWNERS_CLIENT, secrets.worksDesk());
        try (DeskServer server = new DeskServer(
                        desk, deskPort, secrets.worksDesk(), secrets.crewBoard(), authorization::speaksFor);
                AuthorizationServer consent =
                        new AuthorizationServer(authorization, authorizationPort, Orchards.names());
                HistorianServer historian = new HistorianServer(new Historian(), historianPort, secrets.historian());
                CloudServer cloud = new CloudServer(
                        new Cloud(new Random(), new Registry(cloudFile)), cloudPort, secrets.deviceCloud());
                SmtpServer smtp = new SmtpServer(mailbox, smtpPort, SmtpServer.Manner.OPEN);
                MailboxServer mails = new MailboxServer(mailbox, mailboxPort);
                WellLoggers wells = new WellLoggers(broker, secrets.loggers(), weather(), pace, new Random());
                Field field = field()) {
            field.start();
            wells.start();
            System.out.println("works desk: http://127.0.0.1:" + server.port());
            System.out.println("authorization server: " + consent.address());
            System.out.println("historian: http://127.0.0.1:" + historian.port());
            System.out.println("device cloud: http://127.0.0.1:" + cloud.port());
            System.out.println("mailbox: http://127.0.0.1:" + mails.port() + ", takes mail at port " + smtp.port());
            new CountDownLatch(1).await();
        }
        return 0;
    }

    private Weather weather() {
        return new Weather(Instant.now(), weatherFrom, weatherSpeed);
    }

    private Field field() {
        Weather weather = weather();
        Sender network = new Sender(
                "network-server",
                holtra.resolve("/in/network-server"),
                body -> Map.of("Authorization", "Bearer " + secrets.networkServer()));
        Sender masts = new Sender(
                "weather-masts", holtra.resolve("/in/weather-masts"), new WebhookHeaders(secrets.weatherMasts()));
        PumpHouses pumps = new PumpHouses(broker, secrets.pumpHouses());
        OldDevices old = new OldDevices(holtra, secrets.oldMeters(), secrets.soilLogger(), new Random());
        return new Field(
                new Devices(weather, new Random()), new Field.Senders(network, masts, pumps, old), pace, new Random());
    }
}
