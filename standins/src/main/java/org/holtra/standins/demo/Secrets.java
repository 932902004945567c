package org.holtra.standins.demo;

import java.util.Optional;

/** The demo's secrets, made by whoever starts it. */
public record Secrets(
        String apiKey,
        String networkServer,
        String weatherMasts,
        String worksDesk,
        String crewBoard,
        String pumpHouses,
        String historian,
        String oldMeters,
        String soilLogger,
        String plant,
        String loggers,
        String reports,
        String deviceCloud) {

    public static Secrets fromEnvironment() {
        return new Secrets(
                variable("HOLTRA_API_KEY"),
                variable("HOLTRA_DEMO_NETWORK_SERVER"),
                variable("HOLTRA_DEMO_WEATHER_MASTS"),
                variable("HOLTRA_DEMO_WORKS_DESK"),
                variable("HOLTRA_DEMO_CREW_BOARD"),
                variable("HOLTRA_DEMO_PUMP_HOUSES"),
                variable("HOLTRA_DEMO_HISTORIAN"),
                variable("HOLTRA_DEMO_OLD_METERS"),
                variable("HOLTRA_DEMO_SOIL_LOGGER"),
                variable("HOLTRA_DEMO_PLANT"),
                variable("HOLTRA_DEMO_LOGGERS"),
                variable("HOLTRA_DEMO_REPORTS"),
                variable("HOLTRA_DEMO_DEVICE_CLOUD"));
    }

    private static String variable(String name) {
        return Optional.ofNullable(System.getenv(name)).orElse("");
    }
}
