using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class ClipOrder : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "Order",
                table: "Clips",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            // As they were made.
            migrationBuilder.Sql(
                """
                UPDATE "Clips" c SET "Order" = n.n FROM (SELECT "Id", row_number() OVER (ORDER BY ctid) AS n FROM "Clips") n WHERE n."Id" = c."Id"
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Order",
                table: "Clips");
        }
    }
}
