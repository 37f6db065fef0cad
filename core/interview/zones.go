package interview

// Zones are those offered to somebody who says where they are: one or more for every
// hour of the world, by their names in the time zone database (RFC 6557). Any other
// name of the database can be kept too.
var Zones = []string{"Pacific/Honolulu", "America/Anchorage", "America/Los_Angeles", "America/Denver",
	"America/Mexico_City", "America/Chicago",
	"America/Bogota", "America/New_York", "America/Halifax", "America/St_Johns", "America/Sao_Paulo",
	"America/Argentina/Buenos_Aires",
	"Atlantic/Azores", "Atlantic/Reykjavik", "Europe/Lisbon", "Europe/London", "Africa/Lagos", "Europe/Paris",
	"Europe/Berlin", "Africa/Cairo",
	"Africa/Johannesburg", "Europe/Athens", "Europe/Kyiv", "Africa/Nairobi", "Europe/Istanbul", "Asia/Riyadh",
	"Asia/Tehran", "Asia/Dubai",
	"Asia/Karachi", "Asia/Kolkata", "Asia/Kathmandu", "Asia/Dhaka", "Asia/Jakarta", "Asia/Bangkok", "Asia/Shanghai",
	"Asia/Singapore",
	"Australia/Perth", "Asia/Tokyo", "Asia/Seoul", "Australia/Adelaide", "Australia/Brisbane", "Australia/Sydney",
	"Pacific/Noumea",
	"Pacific/Auckland", "Pacific/Tongatapu"}
